; fits no
; left_out M98 P
G21 G90
M98 P100
