; length 1=-20
; Z -20 -15
G21 G90
G43 H1
G0 Z5
Z0
