; fits no
; codes arc_centre
G21 G90
G0 X0 Y0
G2 X20 F600
