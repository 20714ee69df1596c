"""What gunicorn serves."""

from django.core.wsgi import get_wsgi_application

from wood.drying import field
from wood.turning import cuts_kernel

application = get_wsgi_application()
# Before the server divides into processes: each of them then has the compiled kernels at hand.
field.warm()
cuts_kernel.warm()
