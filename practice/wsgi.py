"""The server's entry."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "practice.settings")
application = get_wsgi_application()

# What was loaded stays for good: looking through it again would only hold up a preview.
gc.collect()
gc.freeze()
