; X 0 10
; spindle 5
; stops 0
G21 G90
S1000 M3
G0 X0
G1 X10 F600
M5
