; fits no
; codes no_motion
; left_out G92
G21 G90
G92 X0
