"""Long, bounded trials of the whole application on loopback, each ending in one line of figures: `./almanaque campaign`."""
