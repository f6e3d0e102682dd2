; codes length_unknown
; Z 0 5
G21 G90
G43 H7
G0 Z5
Z0
G49
