"""Priorities of tasks, and the names of queues where each priority has its own."""

__all__ = [
    "COPIES_THEN",
    "PRIORITIES",
    "TRIALS_LAST",
    "TRIALS_SEEN",
    "WEIGHING_FIRST",
    "queue_name",
]

# Trials of a bench that somebody has open come before others.
WEIGHING_FIRST, COPIES_THEN, TRIALS_SEEN, TRIALS_LAST = 50, 20, 2, 0
# All that there are, the most urgent first: between those above lies whose turn it is.
PRIORITIES = range(WEIGHING_FIRST, TRIALS_LAST - 1, -1)


def queue_name(priority: int) -> str:
    return f"priority-{priority}"
