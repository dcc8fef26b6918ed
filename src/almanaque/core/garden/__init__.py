"""Beds and what stands in them. A bed, a crop and the painted squares come in; places of plants, and findings on
room, light, soil and neighbours come out.

Begin with `bed` and `spacing`, then `layout`, which lays a planting out in squares, rows or staggered.
`bed_planting` is a planting as the findings see it: `crowding`, `companions`, `rotation`, `occupancy` and `site_suitability` judge it.
"""
