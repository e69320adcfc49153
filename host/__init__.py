"""An installation of the application: served, looked after, and its people."""
