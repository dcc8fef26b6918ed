"""A season to plan as a JSON file, in; the proposal goes out as the JSON of `calc plan`."""
