; X 0 10
; Y 0 10
; codes spindle_off
G21 G90
G0 X0 Y0
G2 X10 Y10 R10 F600
