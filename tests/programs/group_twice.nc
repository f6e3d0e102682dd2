; fits no
; codes two_of_group spindle_off
G21 G90
G0 G1 X1 F100
