"""Dates, verdict and jobs of plantings, computed from the rules and kept with a hash of what they depend on.

One module, `forecasts`: everything that moves a date ends there.
"""
