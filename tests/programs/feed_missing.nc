; fits no
; codes no_feed spindle_off
; X 5 5
G21 G90
G1 X5
