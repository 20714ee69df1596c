"""The steps of a reading are kept as codes and figures; those that were kept in words are read back from them."""

import re

from django.db import migrations

from calm_heron.workshops.triggers import FUNCTION

TABLE = "measuring_reading"
PLAIN = {
    "as the meter shows it": "shown",
    "the setting for other wood taken back": "setting_taken_back",
    "only a bound is left beyond the meter's range": "only_a_bound",
    "(wet − dry) / dry": "weighed",
}


def as_code(step: dict) -> dict:
    """A step in words as a code with its figures; one that cannot be read back stays as it was written."""
    name, source = step["name"], step["source"]
    kind, figures = PLAIN.get(name, ""), {}
    if adds := re.fullmatch(r"its newest check adds ([+-−][\d.]+)", name):
        kind, figures = "check_adds", {"adds": float(adds[1].replace("−", "-")) / 100}
    elif degrees := re.fullmatch(r"wood at (-?\d+) °C", name):
        kind, figures = "wood_temperature", {"temperature_c": float(degrees[1])}
    elif scale := re.fullmatch(r"scale for (.+)", name):
        kind, figures = "species_scale", {"species": scale[1]}
    elif density := re.fullmatch(r"density of (.+)", name):
        went_by = re.fullmatch(r"setting ([\d.]+) over specific gravity ([\d.]+)", source)
        if went_by:
            kind = "density"
            figures = {"species": density[1], "setting": float(went_by[1]), "specific_gravity": float(went_by[2])}
    if not kind:
        kind, figures = "as_written", {"name": name, "source": source}
    return {"kind": kind, "moisture": step["moisture"], "figures": figures}


def convert(apps, editor) -> None:
    rows = apps.get_model("measuring", "Reading").objects.only("id", "steps")
    if not rows.exists():
        return
    editor.execute(f"DROP TRIGGER never_changed ON {TABLE}")
    changed = []
    for row in rows.iterator(chunk_size=2000):
        row.steps = [as_code(step) if "name" in step else step for step in row.steps]
        changed.append(row)
        if len(changed) == 2000:
            rows.bulk_update(changed, ["steps"])
            changed = []
    rows.bulk_update(changed, ["steps"])
    editor.execute(f"CREATE TRIGGER never_changed BEFORE UPDATE OR DELETE ON {TABLE} FOR EACH ROW EXECUTE FUNCTION {FUNCTION}()")


class Migration(migrations.Migration):
    dependencies = [("measuring", "0005_wet_somewhere")]

    operations = [
        migrations.RenameField("reading", "version", "rule"),
        migrations.RunPython(convert, migrations.RunPython.noop),
    ]
