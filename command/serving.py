"""How the application is served: two processes, a few threads each, nothing written to the home folder."""

wsgi_app = "calm_heron.wsgi:application"
workers = 2
threads = 4
worker_class = "gthread"
preload_app = True
control_socket_disable = True
graceful_timeout = 2
limit_request_line = 8000
