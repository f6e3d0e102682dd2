; spindle 7
G21
S1000 M3
M4
