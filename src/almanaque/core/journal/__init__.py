"""What people see. Answers from a walk come in; sightings checked and put into words, questions for the next walk and letters come out.

Begin with `sightings`, the one shape of everything seen; `tour` decides what to ask at which bed.
"""
