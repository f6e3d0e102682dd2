; X 10 60
; time 5.2742
; codes spindle_off
G21 G90
G0 X10
G1 X60 F600
