"""Jobs, lessons held, carers' rounds taken, stations with readings, and how planting days came out.

Begin with `tasks`, whose identity is planting or routine, step and ordinal.
"""
