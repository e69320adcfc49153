"""From a weight sheet to a plan, and what the plan will weigh; no file is opened here."""

from lighten.planning.decide import plan
from lighten.planning.estimate import Estimate, estimate, part_estimate, part_estimates
from lighten.planning.try_points import decisions_to_try
from lighten.planning.worth import worth

__all__ = [
    "Estimate",
    "decisions_to_try",
    "estimate",
    "part_estimate",
    "part_estimates",
    "plan",
    "worth",
]
