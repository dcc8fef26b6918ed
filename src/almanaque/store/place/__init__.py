"""Weather by source, what stands in for it, weather stations, and candidate sites with their scores.

Begin with `weather`, whose readings go in and out as arrays.
"""
