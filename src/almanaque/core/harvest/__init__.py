"""What the garden gives. Amounts in any unit come in; weights with their range, shares by use, yields and what is
to come out of the beds come out.

Begin with `picking` (one picking), then `yields` (all of them added up by any key).
`forecast_error` and `what_worked` compare with what was promised; `money` and `products` are the ledger and what is made.
"""
