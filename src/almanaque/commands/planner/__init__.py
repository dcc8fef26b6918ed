"""A season planned at once: what is asked is gathered from beds, classes, plantings and seed, the plan is kept, and pencilled into a draft.

Rows of `store.planner` come in with the school's context; a `PlanProblem` of the core and kept proposals go out. Begin with `asking`,
which makes the problem, then `keeping`.
"""
