"""From a weight sheet to a plan, and what the plan will weigh; no file is opened here."""

from lighten.planning.decide import plan
from lighten.planning.estimate import (
    Estimate,
    estimate,
    is_treated_picture,
    part_estimate,
    part_estimates,
)
from lighten.planning.fit import GENTLY, Chosen, Fit, FitRules, fit, fit_together, share_limit
from lighten.planning.try_points import decisions_beyond, decisions_to_try
from lighten.planning.worth import whole_fonts, worth

__all__ = [
    "GENTLY",
    "Chosen",
    "Estimate",
    "Fit",
    "FitRules",
    "decisions_beyond",
    "decisions_to_try",
    "estimate",
    "fit",
    "fit_together",
    "is_treated_picture",
    "part_estimate",
    "part_estimates",
    "plan",
    "share_limit",
    "whole_fonts",
    "worth",
]
