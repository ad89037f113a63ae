import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rapzel.config.settings.production")
application = get_wsgi_application()

# What is loaded by now stays to the end: it is not searched for garbage with every hundredth page, and the processes that
# share it do not each write into it. What pages make is short-lived, so it is looked through less often.
gc.collect()
gc.freeze()
gc.set_threshold(20_000, 20, 50)
