"""The server's entry."""

import gc
import os
from importlib import import_module
from threading import Timer

from django.conf import settings
from django.core.wsgi import get_wsgi_application

from mallet.light.field import warm_up

READY_AFTER_S = 2.0
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "practice.settings")
application = get_wsgi_application()
# Now and not with the first request: what is to be ready later must not run beside it.
import_module(settings.ROOT_URLCONF)


def make_ready() -> None:
    """Load what the first plan needs."""
    import_module("scipy.special")
    import_module("scipy.interpolate")
    import_module("scipy.optimize")
    warm_up()
    # What was loaded stays for good: looking through it again would only hold up a preview.
    gc.collect()
    gc.freeze()


# In a moment: whoever waits for the server to come back, as in the middle of a run, is answered first.
ready = Timer(READY_AFTER_S, make_ready)
ready.daemon = True
ready.start()
