"""The queue's library as an app: set up once, however often the apps are made ready (tests add apps)."""

from procrastinate.app import App
from procrastinate.contrib.django import procrastinate_app
from procrastinate.contrib.django.apps import ProcrastinateConfig


class QueueConfig(ProcrastinateConfig):
    """Its jobs are declared once a process."""

    default = True

    def ready(self) -> None:
        if not isinstance(procrastinate_app.current_app, App):
            super().ready()
