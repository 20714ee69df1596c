"""``./heron start``: everything it takes to open the address it prints, and to keep it open. Ctrl-C ends all it started."""

import argparse
import errno
import os
import signal
import socket
from pathlib import Path
from typing import TYPE_CHECKING

from command import installation
from command.application import is_prepared, prepare, say
from command.cluster import Cluster
from command.line import LOOPBACK
from command.nightly import Nightly
from command.processes import end_marked, marked
from command.server import EVERY_ADDRESS, Server, in_address
from command.trouble import Trouble
from command.watch import Watch
from command.worker import Worker

if TYPE_CHECKING:
    from command.certificate import Certificate


def run(options: argparse.Namespace) -> int:
    # Ctrl-C as well: a shell that starts it in the background would have it ignored.
    for ending in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(ending, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt))
    os.environ["CALM_HERON_DEMO"] = "0" if options.no_demo else "1"
    server = worker = None
    try:
        cluster = Cluster("work")
        new = not cluster.data.exists()
        record, of_worker = cluster.folder / "server", cluster.folder / "worker"
        before = cluster.folder / "server-before"
        if not record.exists() and not before.exists():
            need_free(options.host, options.port)
        say("Making a database." if new else "Starting the database.")
        with cluster:
            installation.settle()

            # What was left running serves on until its place is taken, unless the tables are to change under it.
            if record.exists():
                end_marked(before)
                record.replace(before)
            was_left = marked(before)
            if not was_left or not is_prepared(cluster, demo=not options.no_demo):
                end_marked(before)
                need_free(options.host, options.port)
            allow(options.host)
            certificate = shown_to_phones(cluster.folder / "https") if options.https else None
            cluster.create_database()
            prepare(cluster, demo=not options.no_demo)
            server = Server(options.port, options.host, record=record, before=before, certificate=certificate)
            worker = Worker(of_worker)
            try:
                try:
                    server.start()
                except Trouble:
                    # Where another program has the port, that is what to say.
                    need_free(options.host, options.port)
                    raise
                if was_left:
                    say("A web server of ours was still running from a start that was cut off; this one has taken its place.")
                end_marked(of_worker)
                worker.start()
                if new and (word := installation.word_about_others()):
                    print(word)
                nightly = Nightly(cluster)
                installation.note_running(own_address(options.host, options.port, https=options.https))
                print(
                    "\n".join([*greeting(options.host, options.port, demo=not options.no_demo, https=options.https), nightly.word()]),
                    flush=True,
                )
                Watch(cluster, server, worker, nightly).keep()
            finally:
                installation.forget_running()
                worker.stop()
                server.stop()
                end_marked(before)
    except KeyboardInterrupt:
        print("\nEnded; your data stay." if server else "\nEnded before it was ready.", flush=True)
    return 0


def own_address(host: str, port: int, *, https: bool = False) -> str:
    """The address that people reach it by: its name behind a proxy with TLS, else where it listens."""
    names = [name for name in os.environ.get("CALM_HERON_HOSTS", "").split(",") if name]
    if os.environ.get("CALM_HERON_BEHIND_TLS") == "1" and names:
        return f"https://{names[0]}"
    return f"{'https' if https else 'http'}://{LOOPBACK if host in EVERY_ADDRESS else in_address(host)}:{port}"


def greeting(host: str, port: int, *, demo: bool, https: bool = False) -> list[str]:
    """What the start says once the address can be opened."""
    own = LOOPBACK if host in EVERY_ADDRESS else in_address(host)
    by = "https" if https else "http"
    lines = [f"Calm Heron is at  {by}://{own}:{port}/"]
    if host in EVERY_ADDRESS:
        lines += [f"and for phones    {by}://{address}:{port}/" for address in addresses()]
    if https:
        lines.append(
            "A browser warns of it until it trusts this machine’s certificate. Once on each phone, open  calm-heron.crt  at that address"
            " and\ninstall it as a certificate authority: docs/hosting.md has the steps. It can speak for this machine only."
        )
    elif not is_loopback(host):
        lines.append(
            "Everyone in this network can reach it, and what is typed travels unencrypted: passwords, too. Use it in a network of your"
            " own;\nfor any other see docs/hosting.md."
        )
    if demo:
        lines.append("“Step into the demo workshop” there needs no password. Ctrl-C ends it; your data stay.")
    return lines


def is_loopback(host: str) -> bool:
    return host in {"localhost", "::1"} or host.startswith("127.")


def addresses() -> list[str]:
    """This machine's own addresses in its networks, as far as it knows them."""
    results = []
    for family, elsewhere in ((socket.AF_INET, "192.0.2.1"), (socket.AF_INET6, "2001:db8::1")):
        with socket.socket(family, socket.SOCK_DGRAM) as probe:
            try:
                # Nothing is sent: connecting only asks the system which address it would send from.
                probe.connect((elsewhere, 9))
            except OSError:
                continue
            results.append(in_address(probe.getsockname()[0]))
    return [address for address in results if not is_loopback(address)][:1] or [socket.gethostname()]


def allow(host: str) -> None:
    """Have the application answer to the names that this start makes it reachable by."""
    if is_loopback(host):
        return
    names = [socket.gethostname(), f"{socket.gethostname()}.local", *addresses()] if host in EVERY_ADDRESS else [host]
    os.environ["CALM_HERON_HOSTS"] = ",".join([os.environ.get("CALM_HERON_HOSTS", ""), *names])


def shown_to_phones(folder: Path) -> "Certificate":
    """The certificate for the names that this start is reachable by; the application hands out what is to be trusted."""
    # Read only here: no other start needs it.
    from command.certificate import certificate_for

    made = certificate_for(os.environ.get("CALM_HERON_HOSTS", "").split(","), folder)
    os.environ |= {"CALM_HERON_HTTPS": "1", "CALM_HERON_AUTHORITY": str(made.authority)}
    return made


def need_free(host: str, port: int) -> None:
    if not 1 <= port <= 65535:
        raise Trouble(f"{port} is no port; choose one between 1024 and 65535, as in  ./heron start --port 8001")
    try:
        family, _, _, _, address = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0]
    except (OSError, UnicodeError):
        raise Trouble(f"“{host}” is no address of this machine; --host takes one, or 0.0.0.0 for all of them.") from None
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(address)
        except PermissionError:
            raise Trouble(f"Port {port} needs rights you do not have; choose one above 1023, as in  ./heron start --port 8001") from None
        except OSError as error:
            if error.errno == errno.EADDRNOTAVAIL:
                raise Trouble(
                    f"{host} is not an address of this machine; --host takes one of its own, or 0.0.0.0 for all of them."
                ) from None
            raise Trouble(
                f"Port {port} is taken by another program. End that one, or choose another:  ./heron start --port {port + 1}"
            ) from None
