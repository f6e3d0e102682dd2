; fits no
; codes no_feed spindle_off
; X 0 90
G21 G90
G0 X0
G93 G1 X50 F6
G94
X90
