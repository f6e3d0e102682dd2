; X 0 20
; Y 0 20
; codes spindle_off
G21 G90
G0 X0 Y10
G2 X10 Y0 R-10 F600
