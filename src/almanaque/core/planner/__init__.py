"""A whole season planned at once: wishes, beds and limits in, a proposal with its reasons out. It proposes, a person decides.

`problem` says what is asked, `options` finds every way to grant a wish by the rules of the other packages, `search` chooses among them,
`places` lays what was chosen out in squares, `plan` puts these together, `why_not` says what bars a wish. `model` knows no garden.
Begin reading in `plan`.
"""
