; X 1 9
G21 G90 (Grφίe µ)
G0 X1 ; δ
X9
