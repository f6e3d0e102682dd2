; X 0 20
; Y 40 60
; Z -5 0
; codes spindle_off
G21 G90 G17
G0 X0 Y50 Z0
G2 I10 Z-5 F600
