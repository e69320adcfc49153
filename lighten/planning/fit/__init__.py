"""Fitting to a limit: candidates of each picture, and the choice among them."""

from lighten.planning.fit.fit import (
    GENTLY,
    Chosen,
    Fit,
    FitRules,
    fit,
    fit_together,
    share_limit,
)

__all__ = ["GENTLY", "Chosen", "Fit", "FitRules", "fit", "fit_together", "share_limit"]
