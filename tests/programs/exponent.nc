; fits no
; left_out E
G21 G90
G0 X1E5
