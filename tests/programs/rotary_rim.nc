; radius A=57.29577951308232
; A 0 90
; codes spindle_off
; time 9.0417
G21 G90
G0 A0
G1 A90 F600
