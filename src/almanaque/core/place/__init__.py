"""What the place does. Weather readings, position and what stands around come in; freezes, degree-days, daylength,
water lost and hours of sun come out.

Begin with `climate`, which reads a record; `sun` and `shade` are the light, `evapotranspiration` the thirst.
`readings` and `weather_station` refuse what cannot be; `typed_freezes` stands in where nobody has a record.
"""
