from almanaque.cli import main

raise SystemExit(main())
