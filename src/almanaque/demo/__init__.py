"""An invented school in a northern valley with three years of beds, jobs and pickings, and a small one in the south.

No real person, school, place, brand or variety. `brindlecombe` and `tallowbank` say what they hold; `load` writes it by
the same commands that the pages use.
"""
