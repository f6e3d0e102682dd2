; X 0 100
; time 10.04
; codes spindle_off
G21 G90 G61
G0 X0
G1 X50 F600
X100
