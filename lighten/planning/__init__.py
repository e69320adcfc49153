"""From a weight sheet to a plan, and what the plan will weigh; no file is opened here."""
