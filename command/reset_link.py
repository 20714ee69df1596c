"""``./heron reset-link ADDRESS``: a link by which somebody chooses a new password, for when no owner and no mail can help."""

import argparse

from command.application import point_at
from command.cluster import Cluster
from command.installation import running
from command.line import LOOPBACK
from command.start import own_address
from command.trouble import Trouble


def run(options: argparse.Namespace) -> int:
    with Cluster("work").running_or_started() as cluster:
        point_at(cluster)
        import django

        django.setup()
        from calm_heron.people import accounts
        from calm_heron.workshops.models import Person

        person = Person.objects.filter(email__iexact=options.address, is_active=True, is_visitor=False).first()
        if person is None:
            raise Trouble(f"Nobody signs in here with {options.address}.")
        if options.without_second_step:
            accounts.take_second_step_away(person)
        path = accounts.new_password_path(person)
    served = running()
    print(f"{served.address if served else own_address(LOOPBACK, 8000)}{path}")
    if not served:
        print("Nothing runs from this folder now: start Calm Heron first, and put its own address and port there if they are others.")
    print(f"With it {person.name} chooses a new password: once, within a day. Give it to nobody else; whoever has it can sign in.")
    return 0
