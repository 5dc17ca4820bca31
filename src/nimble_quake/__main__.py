"""`python -m nimble_quake`."""

import sys

from nimble_quake.cli.main import main

sys.exit(main())
