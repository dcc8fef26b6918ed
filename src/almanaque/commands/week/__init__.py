"""The work of a week: jobs ticked, moved and shared out, lessons, planting days, water, carers' rounds and stations.

Begin with `jobs`; `reminders` is what somebody wanted to come back to.
"""
