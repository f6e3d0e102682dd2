; A 0 90
; time 9.0417
; codes rotary_feed spindle_off
G21 G90
G0 A0
G1 A90 F600
