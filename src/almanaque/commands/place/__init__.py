"""Asking the weather station, and telling people what its readings mean.

One module, `weather_station`; what cannot be is left out and said.
"""
