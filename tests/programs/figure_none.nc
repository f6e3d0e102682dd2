; fits no
; codes no_figure
; X 1 1
G21 G90
G0 X1
Y
