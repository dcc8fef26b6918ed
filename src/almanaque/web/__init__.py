"""Pages. A route reads, lets a command or a core rule compute, and hands finished values to a template.

`app` puts everything together, `security` decides who may enter, `desk` opens a school's room for one request, `frame`
draws what every page shares, `rooms` has one module per room of the top bar, `pictures` the drawings.
"""
