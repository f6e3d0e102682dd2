; fits no
; codes no_level
G21 G90
G0 Z5
G81 Z-5 F300
