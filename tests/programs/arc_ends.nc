; fits no
; codes arc_ends spindle_off
G21 G90
G0 X0 Y0
G2 X20 Y1 I10 F600
