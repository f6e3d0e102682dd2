; fits no
; codes pecks
G21 G90
G0 Z5
G83 Z-5 R2 Q0.0001 F300
