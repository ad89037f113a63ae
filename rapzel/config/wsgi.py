"""The door for gunicorn. Production settings unless DJANGO_SETTINGS_MODULE says otherwise."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rapzel.config.settings.production")
application = get_wsgi_application()

from rapzel.config.warm import settle, warm  # noqa: E402  (Django has to be there first)

warm()
settle()
