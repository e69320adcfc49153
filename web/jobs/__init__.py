"""Work on people's files, each job in a process of its own, within limits."""
