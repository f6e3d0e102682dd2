; X 0 50.8
; Y 0 25.4
; codes spindle_off
G20 G90 G17
G0 X0 Y0
G2 X2 Y0 I1 F20
