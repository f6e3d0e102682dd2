; codes no_speed
; spindle 2
G21
M3
