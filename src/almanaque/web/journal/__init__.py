"""The pages of Journal: everything seen and done, letters, signs with their public pages, and the phone in the garden.

Begin with `journal_page`; `phone` gives the snapshot and takes what comes back.
"""
