"""Lets ``python -m dimetron`` do what the ``dimetron`` command does."""

import sys

from dimetron.cli import main

sys.exit(main())
