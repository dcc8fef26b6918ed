"""A school's own figures, varieties and crops, as they lie over the catalogue.

One module, `own_crops`; values come out as the crop form wrote them.
"""
