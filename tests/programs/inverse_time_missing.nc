; fits no
; codes no_feed spindle_off
; X 0 100
G21 G90
G0 X0
G93 G1 X100 F6
X90
