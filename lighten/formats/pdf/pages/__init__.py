"""What pages draw: where pictures stand, paths, and pages as files of their own."""
