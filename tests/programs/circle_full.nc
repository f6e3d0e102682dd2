; X 0 20
; Y 40 60
; codes spindle_off
; time 6.974
G21 G90 G17
G0 X0 Y50
G2 I10 F600
