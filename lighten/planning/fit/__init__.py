"""As gently as a limit allows: candidates of each picture, and the allocation among them."""

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
