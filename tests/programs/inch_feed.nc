; X 0 25.4
; time 6.0085
; codes spindle_off
G20 G90
G0 X0
G1 X1 F10
