"""The queue of tasks: in the database of one machine, or in Redis for workers on several."""
