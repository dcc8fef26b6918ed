"""One module per room of the top bar, each a router: read, let a command or rule compute, draw."""
