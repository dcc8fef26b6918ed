"""Coming in: login, invitation, a first school, people with their roles, and the page of a garden pass.

Begin with `login`; what a role may do is said in `permissions`.
"""
