"""The crops in a list, each on a sheet for a class, and the school's own figures.

Begin with `crop_pages`; `crop_facts` puts every value into words with its source.
"""
