"""The school's time and people. Terms, breaks and classes come in; days on which children are here, lessons,
grades and who moves up come out.

Begin with `school_year`, on which every verdict rests; `classes` says who is in which grade, `class_flags` what a class must not touch.
`calendar_import` and `turn_of_year` make one year's calendar from a file or from the last one.
"""
