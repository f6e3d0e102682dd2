; fits no
; codes radius_compensation
; left_out D
; X 1 1
G21 G90
G41 D1
G0 X1
G40
