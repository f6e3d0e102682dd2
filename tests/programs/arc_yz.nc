; Y 0 10
; Z -40 -20
; codes spindle_off rapid_low
G21 G90 G19
G0 Y10 Z-40
G2 Y10 Z-20 K10 F600
