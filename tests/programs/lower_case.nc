; X 0 10
; Y 0 20
g21g90
g0x0y0
x10y20
