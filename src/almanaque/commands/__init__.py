"""What people do, each as one function: read from the store, compute in the core, write in the same transaction.

Pages, the worker and the demo call these, so that a planting made by any of them gets the same dates and jobs.
`context` reads what verdicts depend on; begin with `garden.plantings`, then `growth.forecasts` and `week.jobs`.
"""

import almanaque.commands.words  # noqa: F401  the words of this floor's codes
