; fits no
; codes cycle spindle_off
G21 G90
G0 Z5
G88 Z-5 R2 F300
