"""From a weight sheet to a plan, and what the plan will weigh; no file is opened here."""

from lighten.planning.decide import plan
from lighten.planning.estimate import Estimate, estimate, part_estimate
from lighten.planning.worth import worth

__all__ = ["Estimate", "estimate", "part_estimate", "plan", "worth"]
