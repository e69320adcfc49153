"""Priorities of tasks, and the names of queues where each priority has its own."""

__all__ = ["COPIES_THEN", "PRIORITIES", "TRIALS_LAST", "WEIGHING_FIRST", "queue_name"]

WEIGHING_FIRST, COPIES_THEN, TRIALS_LAST = 50, 20, 0
# All that there are, the most urgent first: between those above lies whose turn it is.
PRIORITIES = range(WEIGHING_FIRST, TRIALS_LAST - 1, -1)


def queue_name(priority: int) -> str:
    return f"priority-{priority}"
