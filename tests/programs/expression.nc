; fits no
; left_out # 5 = [ ]
G21 G90
#=[5]
G0 X1
