; X 1 1
; codes open_comment
G21 G90
G0 X1 (X9
