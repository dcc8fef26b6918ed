"""People of a school and their own accounts: roles, leaving, erasing, passwords.

In come an account and what is wanted; out comes the change, or a refusal. Begin with `people`.
"""
