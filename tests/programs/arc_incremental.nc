; X 10 20
; Y 0 10
; codes spindle_off
G21 G91 G17
G0 X10 Y0
G3 X10 Y10 J10 F600
