from idler.cli import PROGRAM, main
from idler.cli.install import COMPLETE

main(prog_name=PROGRAM, complete_var=COMPLETE)
