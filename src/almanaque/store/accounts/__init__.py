"""Accounts, sessions and garden passes. Hashes and ids come in; who asks, with which role, comes out.

Begin with `accounts`: these tables are global and reached only through the database's own functions.
"""
