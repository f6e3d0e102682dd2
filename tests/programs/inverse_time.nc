; X 0 100
; time 10.02
; codes spindle_off
G21 G90
G0 X0
G93 G1 X100 F6
