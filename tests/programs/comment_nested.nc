; X 1 9
; codes nested_comment
G21 G90
G0 X1 (a (b) 
X9
