"""From an order to what was made: weigh, try, plan, write, prove, go back where a proof fails."""
