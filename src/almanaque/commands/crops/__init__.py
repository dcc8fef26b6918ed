"""A school's own figures and crops kept, with every plan brought up to date.

One module, `own_crops`.
"""
