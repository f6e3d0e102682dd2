; X 0 100
; time 1.2
; lines 6
G21 G90
G0 X0
G0 X100
