; fits no
; codes no_motion
G21 G90
X5
