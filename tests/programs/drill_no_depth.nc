; fits no
; codes no_depth
G21 G90
G0 Z5
G81 R2 X5 F300
