"""The door for gunicorn. Production settings unless DJANGO_SETTINGS_MODULE says otherwise."""

import gc
import os
import sys

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rapzel.config.settings.production")
application = get_wsgi_application()

from rapzel.config.warm import warm  # noqa: E402  (Django has to be there first)

warm()

# What is loaded by now stays to the end: it is not searched for garbage again and again, and the processes that share
# it do not each write into it. What pages make is short-lived, so that it is looked through less often.
gc.collect()
gc.freeze()
gc.set_threshold(20_000, 20, 50)

# A page that asks the database a dozen times waits as often for a thread that computes: ten times shorter than usual.
sys.setswitchinterval(0.0005)
