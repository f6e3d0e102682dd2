; fits no
; left_out Q
G21 G90
G0 X1 Q3
