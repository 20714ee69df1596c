"""What an action refuses: a missing right, or something that cannot be done. The message is shown to the person who tried."""

from django.core.exceptions import PermissionDenied

from calm_heron.workshops.models import Membership, Role


class Refused(Exception):
    """An action that cannot be done; ``field`` names the input it is about, ``""`` for the whole form."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.field = field


def require(membership: Membership, role: Role) -> None:
    """Raise PermissionDenied unless the member may do what ``role`` may."""
    if not membership.may(role):
        raise PermissionDenied(f"This takes the role “{role.label}” or one above it; yours here is “{membership.get_role_display()}”.")
