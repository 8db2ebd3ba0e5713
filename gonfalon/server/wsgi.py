"""The WSGI application gunicorn serves; it is ready once the policy and the trees are read."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gonfalon.server.settings")

# Policies and trees are many objects that live long: to look them all through for garbage, as the defaults
# would while an impact is worked out, takes longer than the impact.
gc.set_threshold(100_000, 50, 100)

application = get_wsgi_application()

from django.db import connections  # noqa: E402 - what follows needs Django to be set up

from gonfalon.server.ready import get_ready  # noqa: E402

get_ready()
connections.close_all()  # the threads that answer have their own
