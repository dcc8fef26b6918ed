"""The garden's map as GeoJSON and as a drawing, out and in again.

Begin with `garden_things`, the shape both share.
"""
