"""The door for a WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "idlebench.web.settings")
application = get_wsgi_application()
