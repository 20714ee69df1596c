"""``./heron start``: everything it takes to open the address it prints. Ctrl-C ends all it started."""

import argparse
import os
import signal
import socket

from command.application import point_at, prepare, served
from command.cluster import Cluster
from command.trouble import Trouble


def run(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./heron start")
    parser.add_argument("--port", type=int, default=8000, help="the port on 127.0.0.1 (8000)")
    parser.add_argument("--no-demo", action="store_true", help="start without the demo workshop")
    options = parser.parse_args(arguments)
    need_free(options.port)
    # Ctrl-C as well: a shell that starts it in the background would have it ignored.
    for ending in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(ending, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt))
    with Cluster("work") as cluster:
        cluster.create_database()
        point_at(cluster)
        os.environ["CALM_HERON_DEMO"] = "0" if options.no_demo else "1"
        prepare(demo=not options.no_demo)
        with served(options.port):
            try:
                print(f"Calm Heron is at  http://127.0.0.1:{options.port}/", flush=True)
                if not options.no_demo:
                    print("“Step into the demo workshop” there needs no password. Ctrl-C ends it; your data stay.", flush=True)
                signal.pause()
            except KeyboardInterrupt:
                print("\nEnding.", flush=True)
    return 0


def need_free(port: int) -> None:
    if not 1 <= port <= 65535:
        raise Trouble(f"{port} is no port; choose one between 1024 and 65535, as in  ./heron start --port 8001")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except PermissionError:
            raise Trouble(f"Port {port} needs rights you do not have; choose one above 1023, as in  ./heron start --port 8001") from None
        except OSError:
            raise Trouble(
                f"Port {port} is taken by another program. End that one, or choose another:  ./heron start --port {port + 1}"
            ) from None
