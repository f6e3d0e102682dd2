from idler.cli import main

main()
