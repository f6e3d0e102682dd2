; X 0 100
; time 10.02
; codes spindle_off
G21 G90 G64 P0.1
G0 X0
G1 X50 F600
X100
