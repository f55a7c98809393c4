"""`python -m ghoststep` is the command `ghost-step`."""

from ghoststep.cli.main import main

raise SystemExit(main())
