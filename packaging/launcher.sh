#!/bin/sh
# Runs the program with the packages under its own prefix, whatever else is installed for Python.
exec /usr/bin/python3 -I -c 'import sys; sys.path.insert(0, "/usr/lib/inner-rim"); from inner_rim.cli import main; sys.exit(main())' "$@"
