; A 0 90
; X 0 100
; codes spindle_off
G21 G90
G0 A0 X0
G1 A90 X100 F600
