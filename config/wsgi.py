"""The application for a WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
application = get_wsgi_application()

# After the settings are there.
from web.jobs.apps import nursery  # noqa: E402

# The loupe's first page waits for no loading.
nursery().warm()
