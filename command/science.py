"""The science against published figures: every check table, worked anew; ``./heron science kilns settling`` only those."""

import argparse
import time


def run(options: argparse.Namespace) -> int:
    from wood import checks

    failed, outside, total = 0, 0, 0
    begun = time.perf_counter()
    for table in checks.all_tables(tuple(options.tables)):
        print(f"\n{table.title}  ({table.source})")
        for check in table.checks:
            mark = "ok  " if check.holds else "FAIL"
            wanted = f"{check.low:.3g} to {check.high:.3g} {check.unit}".rstrip()
            print(f"  {mark} {check.name:<64} {check.got:8.2f}   wanted {wanted}   {check.kind}")
        allowed = f", {table.may_fail} of them may lie outside" if table.may_fail else ""
        print(
            f"  {'holds' if table.holds else 'DOES NOT HOLD'}: {len(table.checks) - table.failed} of {len(table.checks)}{allowed}."
            f" {table.note}".rstrip()
        )
        failed += not table.holds
        outside, total = outside + table.failed, total + len(table.checks)
    seconds = time.perf_counter() - begun
    tables = f"{failed} tables do not hold" if failed else "each table holds with what it allows"
    print(f"\n{seconds:.0f} s; {outside} of {total} checks FAIL, {total - outside} hold; {tables}.")
    return 1 if failed else 0
