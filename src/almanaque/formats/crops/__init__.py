"""Portraits of crops as files of their own, and which of them is how a plant looks on a day.

Begin with `portraits`.
"""
