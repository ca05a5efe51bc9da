from sign_shelf.cli import main

main()
