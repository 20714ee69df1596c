"""The science against published figures: every check table, worked anew; ``./heron science kilns settling`` only those."""

import argparse
import time


def run(options: argparse.Namespace) -> int:
    from wood import checks

    failed = 0
    begun = time.perf_counter()
    for table in checks.all_tables(tuple(options.tables)):
        print(f"\n{table.title}  ({table.source})")
        for check in table.checks:
            mark = "ok  " if check.holds else "FAIL"
            wanted = f"{check.low:.3g} to {check.high:.3g} {check.unit}".rstrip()
            print(f"  {mark} {check.name:<64} {check.got:8.2f}   wanted {wanted}   {check.kind}")
        allowed = f", {table.may_fail} allowed" if table.may_fail else ""
        print(
            f"  {'holds' if table.holds else 'DOES NOT HOLD'}: {len(table.checks) - table.failed} of {len(table.checks)}{allowed}."
            f" {table.note}".rstrip()
        )
        failed += not table.holds
    print(
        f"\n{time.perf_counter() - begun:.0f} s; {failed} tables do not hold."
        if failed
        else f"\n{time.perf_counter() - begun:.0f} s; every table holds."
    )
    return 1 if failed else 0
