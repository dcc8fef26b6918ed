"""Plants drawn by rule: in come the traits of a crop, a stage and a view; out come shapes with their measures, and SVG of them.

Nothing here knows a garden: `drawing.portrait` makes one, `traits` says what a crop looks like, `habits` puts its parts in space.
Begin reading in `drawing`. Everything is one hand of our own, and schematic where `traits` says so.
"""
