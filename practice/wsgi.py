"""The server's entry."""

import gc
import os
from threading import Timer

from django.core.wsgi import get_wsgi_application

from mallet.light.field import warm_up

READY_AFTER_S = 2.0
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "practice.settings")
application = get_wsgi_application()


def make_ready() -> None:
    """Load what the first plan needs."""
    warm_up()
    # What was loaded stays for good: looking through it again would only hold up a preview.
    gc.collect()
    gc.freeze()


# In a moment: whoever waits for the server to come back, as in the middle of a run, is answered first.
ready = Timer(READY_AFTER_S, make_ready)
ready.daemon = True
ready.start()
