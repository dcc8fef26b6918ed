"""Files of the place: daily weather, the local planting chart, and what stands around a point.

Begin with `weather_csv`.
"""
