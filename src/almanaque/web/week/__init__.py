"""The pages of Week: lessons and jobs, planting days with their prints, water, carers' rounds and stations.

Begin with `week_page`, which gathers parts from the modules beside it.
"""
