"""What gunicorn serves."""

from django.core.wsgi import get_wsgi_application
from django.urls import reverse

from wood.drying import field
from wood.turning import cuts_kernel

application = get_wsgi_application()
# Before the server divides into processes: each of them then has all pages and the compiled kernels at hand.
reverse("workshops")
field.warm()
cuts_kernel.warm()
