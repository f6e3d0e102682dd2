; machine lathe
; fits no
; codes arc_plane
G21 G90 G17
G0 X10 Z0
G2 X20 R5 F100
