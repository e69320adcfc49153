"""From a weight sheet to a plan, and what the plan will weigh; no file is opened here."""

from lighten.planning.decide import plan
from lighten.planning.estimate import (
    Estimate,
    estimate,
    is_held_picture,
    is_treated_picture,
    part_estimate,
    part_estimates,
    sheet_estimates,
)
from lighten.planning.fit import GENTLY, Chosen, Fit, FitRules, fit, fit_together, share_limit
from lighten.planning.sample_decisions import decisions_beyond, decisions_to_try
from lighten.planning.switch_savings import switch_savings, whole_fonts

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
    "is_held_picture",
    "is_treated_picture",
    "part_estimate",
    "part_estimates",
    "plan",
    "share_limit",
    "sheet_estimates",
    "switch_savings",
    "whole_fonts",
]
