; X 1 9
(one) G21 (two) G90
G0 (X100) X1 ; X200
X9
