; X 0 20
; Y 0 10
; codes spindle_off
G21 G90 G17
G0 X0 Y0
G2 X20 Y0 I10 F600
