"""What gunicorn serves."""

from django.core.wsgi import get_wsgi_application

from wood.drying import field

application = get_wsgi_application()
# Before the server divides into processes: each of them then has the compiled moisture field at hand.
field.warm()
