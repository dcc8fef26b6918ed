"""Who may do what. A role comes in; the rights that it has come out.

One module, `permissions`.
"""
