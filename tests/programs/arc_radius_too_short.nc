; fits no
; codes arc_radius spindle_off
G21 G90
G0 X0 Y0
G2 X30 Y0 R10 F600
