"""``./heron operator ADDRESS``: name who keeps the installation running and may see its queue. No role in a workshop gives that."""

import argparse

from command.application import point_at
from command.cluster import Cluster
from command.trouble import Trouble


def run(options: argparse.Namespace) -> int:
    with Cluster("work").running_or_started() as cluster:
        point_at(cluster)
        import django

        django.setup()
        from calm_heron.workshops.models import Person

        if options.address is None:
            named = list(Person.objects.filter(is_operator=True).order_by("email").values_list("email", flat=True))
            print("\n".join(named) if named else "Nobody is the operator here. To name somebody:  ./heron operator ADDRESS")
            return 0
        person = Person.objects.filter(email__iexact=options.address, is_active=True, is_visitor=False).first()
        if person is None:
            raise Trouble(f"Nobody signs in here with {options.address}.")
        person.is_operator = not options.no_more
        person.save(update_fields=["is_operator"])
    print(f"{person.name} is {'no operator any more' if options.no_more else 'an operator now: see /operator/ once signed in'}.")
    return 0
