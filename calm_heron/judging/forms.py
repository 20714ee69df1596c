"""How close a workshop wants its uses."""

from typing import Any

from calm_heron.judging import purposes
from calm_heron.judging.models import LIMITS, TOLERANCE, UseRule
from calm_heron.site.numbers import typed
from calm_heron.workshops.fields import CalmForm, PercentField
from wood.uses import USES, Against, Use


class UsesForm(CalmForm):
    """For every use its tolerance (or limit), and how even it must be inside; what is left empty goes by the usual rule."""

    all_have_defaults = True

    def build(self) -> None:
        rules = {rule.use_key: rule for rule in UseRule.objects.of(self.workshop)}
        for use in USES.values():
            rule = rules.get(use.key)
            for name, limits in self.limits_of(use):
                usual = use.allowed_gradient if name == "evenness" else getattr(use, name)
                self.fields[f"{use.key}_{name}"] = PercentField(
                    self.system, *limits, label=f"{use.name}, {name}", required=False, initial=getattr(rule, name) if rule else None
                )
                self.fields[f"{use.key}_{name}"].widget.attrs["placeholder"] = typed(usual)

    @staticmethod
    def limits_of(use: Use) -> list[tuple[str, tuple[float, float]]]:
        return [("limit", LIMITS)] if use.against is Against.LIMIT else [("tolerance", TOLERANCE), ("evenness", TOLERANCE)]

    @property
    def rows(self) -> list[dict[str, Any]]:
        """Each use with its fields and what is usual for it."""
        now = purposes.uses(self.workshop)
        return [
            {
                "use": use,
                "now": now[use.key],
                "fields": [self[f"{use.key}_{name}"] for name, _ in self.limits_of(use)],
                "is_limit": use.against is Against.LIMIT,
            }
            for use in USES.values()
        ]

    def values(self) -> dict[str, dict[str, float | None]]:
        """What the action takes, from a valid form."""
        return {use.key: {name: self.cleaned_data[f"{use.key}_{name}"] for name, _ in self.limits_of(use)} for use in USES.values()}
