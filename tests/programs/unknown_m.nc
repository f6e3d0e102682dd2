; X 1 1
; left_out M62
G21 G90
M62
G0 X1
