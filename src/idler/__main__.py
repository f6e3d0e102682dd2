from idler.cli import main

main(prog_name="./idler")
