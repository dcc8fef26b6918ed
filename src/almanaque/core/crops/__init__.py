"""The crops. Tables with sources come in; typed, checked crops come out, the catalogue's and a school's own.

Begin with `crop`, which names every value of a crop with its unit.
`catalogue` reads the shipped tables, `crop_form` reads and writes each value as people type it, `own_crops` lays a
school's figures over them.
"""
