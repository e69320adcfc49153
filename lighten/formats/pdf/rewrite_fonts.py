"""Fonts: to be written next."""

import pikepdf

from lighten.plans import Outcome, Plan
from lighten.weights import WeightSheet


def rewrite_fonts(pdf: pikepdf.Pdf, sheet: WeightSheet, plan: Plan) -> dict[str, Outcome]:
    return {}
