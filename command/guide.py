"""``./heron guide``: follow docs/hosting.md to the letter in a bare Debian, part by part, and say what came of each.

The commands, the unit and the proxy's file are taken out of the guide itself, so that what is tried is what stands there. It needs root,
debootstrap and a quarter of an hour; nothing of this machine but its way to the package indexes goes in, and nothing comes out but what it
prints. There is no systemd in it: the unit is looked at by ``systemd-analyze verify``, and its ExecStart is run as its user, with its
environment, on a disk that only its ReadWritePaths may be written to.
"""

import argparse
import contextlib
import http.cookiejar
import os
import re
import shutil
import signal
import socket
import ssl
import subprocess
import tempfile
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path

from command.machine import ROOT, is_root
from command.processes import until
from command.trouble import Trouble

GUIDE, WALKED = ROOT / "docs" / "hosting.md", ROOT / "docs" / "hosting-walked.txt"
NAME, USER, HOME = "wood.example", "calmheron", "/srv/calm-heron"
SUITE = "bookworm"
# What a server has that the smallest Debian has not.
BESIDES = ("ca-certificates", "systemd", "openssl", "sudo", "procps")
# How this machine reaches its package indexes.
REACHES = (
    "/etc/apt/sources.list",
    "/etc/apt/sources.list.d",
    "/etc/apt/apt.conf.d",
    "/etc/apt/keyrings",
    "/usr/share/keyrings",
    "/etc/pip.conf",
)
CERTIFICATES = "/etc/ssl/certs/ca-certificates.crt"
PERSON, PASSWORD = "ebb@wood.example", "sedge-and-samphire"
PAGES_AT_ONCE = 20


def run(options: argparse.Namespace) -> int:
    if not is_root():
        raise Trouble("The guide is walked in a root of its own, which takes root. As root:  ./heron guide")
    if not shutil.which("debootstrap"):
        raise Trouble("It takes debootstrap:  apt-get install --no-install-recommends debootstrap")
    told: list[str] = []

    def say(line: str) -> None:
        told.append(line)
        print(line, flush=True)

    with bare_root(options.root) as root:
        walk = Walk(root, GUIDE.read_text(encoding="utf-8"), say)
        try:
            for part in walk.parts():
                begun = time.monotonic()
                words = part()
                say(f"ok  {time.monotonic() - begun:5.0f} s  {(part.__doc__ or '').strip()}{f': {words}' if words else ''}")
            wrong = 0
        except (Trouble, AssertionError, subprocess.SubprocessError, OSError) as trouble:
            say(f"NOT OK: {(part.__doc__ or '').strip()}\n{trouble}")
            wrong = 1
        finally:
            walk.end()
    if options.write and not wrong:
        WALKED.write_text(f"docs/hosting.md, followed in a bare Debian ({SUITE}):\n" + "\n".join(told) + "\n", encoding="utf-8")
    return wrong


@contextlib.contextmanager
def bare_root(made: Path | None = None) -> Iterator[Path]:
    """The smallest Debian in a folder of its own (a copy of ``made``, where that is one already), with our checkout's history beside it."""
    with tempfile.TemporaryDirectory(prefix="calm-heron-guide-") as folder:
        root = Path(folder) / "root"
        if made:
            subprocess.run(["cp", "-a", f"{made}/.", str(root)], check=True)
        else:
            subprocess.run(["debootstrap", "--variant=minbase", SUITE, str(root)], check=True, stdout=subprocess.DEVNULL)
        for path in REACHES:
            if Path(path).exists():
                target = root / path.lstrip("/")
                shutil.rmtree(target) if target.is_dir() else target.unlink(missing_ok=True)
                target.parent.mkdir(parents=True, exist_ok=True)
                subprocess.run(["cp", "-aL", path, str(target)], check=True)
        subprocess.run(["git", "clone", "-q", "--bare", str(ROOT), str(root / "calm-heron.git")], check=True)
        with (root / "etc" / "hosts").open("a") as hosts:
            hosts.write(f"127.0.0.1 localhost {NAME} {socket.gethostname()}\n")
        shutil.copy("/etc/resolv.conf", root / "etc" / "resolv.conf")
        # Whoever follows it says yes.
        (root / "etc" / "apt" / "apt.conf.d" / "90-yes").write_text('APT::Get::Assume-Yes "true";\n')
        # Anybody may clone what is public.
        (root / "etc" / "gitconfig").write_text("[safe]\n\tdirectory = *\n")
        mounts = [root, root / "proc", root / "dev"]
        subprocess.run(["mount", "--bind", str(root), str(root)], check=True)
        subprocess.run(["mount", "-t", "proc", "proc", str(mounts[1])], check=True)
        subprocess.run(["mount", "--bind", "/dev", str(mounts[2])], check=True)
        try:
            yield root
        finally:
            for mount in reversed(mounts):
                subprocess.run(["umount", "-l", str(mount)], check=False)


def blocks(guide: str) -> list[str]:
    """The indented blocks of the guide, in their order."""
    found = re.findall(r"(?:(?:^    .*|^)\n)+", guide, re.MULTILINE)
    return [text for block in found if (text := "\n".join(line[4:] for line in block.split("\n")).strip("\n"))]


class Walk:
    """The guide in a root, part by part; each part says what it found, or raises."""

    def __init__(self, root: Path, guide: str, say: Callable[[str], None]) -> None:
        self.root, self.say = root, say
        self.service: subprocess.Popen[bytes] | None = None
        self.blocks = blocks(guide)
        self.unit = self.block("[Service]")
        self.site = self.block("limit_req_zone")
        self.jar = http.cookiejar.CookieJar()
        real = socket.getaddrinfo
        socket.getaddrinfo = lambda host, *more, **how: real("127.0.0.1" if host == NAME else host, *more, **how)
        context = ssl.create_default_context()
        # Its certificate is signed by itself.
        context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=context), urllib.request.HTTPCookieProcessor(self.jar)
        )

    def parts(self) -> list[Callable[[], str]]:
        return [
            self.prepare,
            self.user_and_checkout,
            self.unit_is_understood,
            self.service_runs,
            self.proxy_with_tls,
            self.somebody_signs_up,
            self.commands_find_the_same_data,
            self.twenty_people_behind_one_address,
            self.a_link_for_a_new_password,
            self.nightly_backups,
            self.update,
            self.restore,
        ]

    def block(self, with_this: str) -> str:
        return next(block for block in self.blocks if with_this in block)

    # -- the parts

    def prepare(self) -> str:
        """a bare Debian with what a server has"""
        self.inside(f"apt-get update -qq && apt-get install -y -qq --no-install-recommends {' '.join(BESIDES)}")
        # The certificates that this machine trusts: its way to the package indexes may have one of its own.
        if Path(CERTIFICATES).exists():
            shutil.copy(CERTIFICATES, self.root / CERTIFICATES.lstrip("/"))
        return f"{self.size_mb()} MB"

    def user_and_checkout(self) -> str:
        """the user, the folders, the checkout, the first start"""
        lines = self.block("useradd").replace("<this repository>", "/calm-heron.git").split("\n")
        for line in lines[:-1]:
            self.inside(line, folder=f"{HOME}/app" if (self.root / f"{HOME}/app".lstrip("/")).exists() else "/")
        first = self.begin(f"cd {HOME}/app && {lines[-1]}")
        self.until_said(first, "Calm Heron is at", 900)
        os.killpg(first.pid, signal.SIGINT)
        first.wait(60)
        return f"{self.size_mb()} MB of disk by now"

    def unit_is_understood(self) -> str:
        """the unit, by systemd-analyze verify"""
        self.write("/etc/systemd/system/calm-heron.service", self.unit)
        return (
            self.inside("systemd-analyze verify /etc/systemd/system/calm-heron.service 2>&1 | grep -i calm-heron || true").strip()
            or "nothing to say"
        )

    def service_runs(self) -> str:
        """its ExecStart, as its user, with its environment, writing only to its ReadWritePaths"""
        told = dict(re.findall(r"^(User|WorkingDirectory|ExecStart|ReadWritePaths)=(.*)$", self.unit, re.MULTILINE))
        environment = " ".join(re.findall(r"^Environment=(.*)$", self.unit, re.MULTILINE))
        only = " ".join(f"&& mount --bind {path} {path} && mount -o remount,rw,bind {path}" for path in told["ReadWritePaths"].split())
        command = (
            f"mount -o remount,ro,bind / {only} && mount -t tmpfs tmpfs /tmp && cd {told['WorkingDirectory']}"
            f" && exec setpriv --reuid={told['User']} --regid={told['User']} --init-groups --reset-env"
            f" env {environment} {told['ExecStart']}"
        )
        self.service = self.begin(command, unshare=True)
        self.until_said(self.service, "Calm Heron is at", 300)
        return told["ExecStart"]

    def proxy_with_tls(self) -> str:
        """the proxy's file, its certificate, enabled, understood, reloaded"""
        self.inside(
            f"mkdir -p /etc/ssl/private && openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN={NAME}"
            f" -keyout /etc/ssl/private/{NAME}.key -out /etc/ssl/certs/{NAME}.pem 2>&1"
        )
        self.write("/etc/nginx/sites-available/calm-heron", self.site)
        self.inside("nginx")
        # Debian's own first page stands in no other's way: it goes by another name.
        said = [self.inside(line.replace("systemctl reload nginx", "nginx -s reload")) for line in self.block("nginx -t").split("\n")]
        assert "syntax is ok" in "".join(said), said
        until(lambda: self.page("/alive/")[0] == 200, 30)
        status, _ = self.page("/", scheme="http")
        assert status == 200, f"plain requests are sent on: {status}"
        return "pages come over TLS, plain requests are sent on"

    def somebody_signs_up(self) -> str:
        """somebody signs up through the proxy"""
        token = re.findall(r'name="csrfmiddlewaretoken" value="([^"]+)"', self.page("/accounts/signup/")[1])[0]
        form = {"csrfmiddlewaretoken": token, "name": "Ebb Lowater", "email": PERSON, "password1": PASSWORD}
        status, page = self.page("/accounts/signup/", **form)
        assert (status, "workshop" in page.lower()) == (200, True), page[:500]
        secure = [cookie.name for cookie in self.jar if cookie.secure]
        assert "sessionid" in secure, f"cookies over TLS only: {secure}"
        return f"cookies over TLS only: {', '.join(sorted(secure))}"

    def commands_find_the_same_data(self) -> str:
        """status and backup, without being told where, speak of the data that the service uses"""
        status = self.heron("status")
        for wanted in (f"{HOME}/data", f"https://{NAME}"):
            assert wanted in status, status
        said = self.heron("backup /var/backups/calm-heron/first.backup")
        rows = self.inside("tar -xOf /var/backups/calm-heron/first.backup about.json | grep -o '\"workshops_person\": [0-9]*'").strip()
        assert rows.endswith(" 1"), rows
        elsewhere = self.heron("backup /var/backups/calm-heron/x.backup", "CALM_HERON_DATA=/tmp/elsewhere", fails=True)
        assert f"keeps its data in {HOME}/data" in elsewhere, elsewhere
        return said.split(":", 1)[1].split(". It holds")[0].strip() + ", one person in it; another place is refused"

    def twenty_people_behind_one_address(self) -> str:
        """twenty people come at once from one address"""
        page = self.page("/")[1]
        files = list(dict.fromkeys(re.findall(r'(?:href|src)="(/static/[^"]+)"', page)))
        answers = [self.page(address)[0] for _ in range(PAGES_AT_ONCE) for address in ["/", *files]]
        refused = sum(status in (429, 503) for status in answers)
        assert not refused, f"{refused} of {len(answers)} refused"
        return f"{len(answers)} requests, none refused"

    def a_link_for_a_new_password(self) -> str:
        """reset-link knows the host of what runs"""
        link = self.heron(f"reset-link {PERSON}").split("\n")[0]
        assert link.startswith(f"https://{NAME}/accounts/"), link
        assert self.page(link.removeprefix(f"https://{NAME}"))[0] == 200
        return link.rpartition("/password")[0] + "/…"

    def nightly_backups(self) -> str:
        """nightly backups, where the service may write"""
        line = next(line for line in self.block("--nightly on").split("\n") if "--nightly on" in line)
        said = self.heron(line.split("./heron ")[1].split("   ")[0].strip())
        assert "/var/backups/calm-heron" in said, said
        # The service itself makes the first, since none was made since three in the morning.
        until(lambda: any((self.root / "var/backups/calm-heron").glob("calm-heron-*.backup")), 180)
        return "the service has made one"

    def update(self) -> str:
        """the update, word for word"""
        for line in self.block("git pull").split("\n"):
            if "systemctl stop" in line:
                self.stop()
            elif "systemctl start" in line:
                self.service_runs()
            elif not line.startswith("cd "):
                self.inside(line, folder=f"{HOME}/app")
        until(lambda: self.page("/ready/")[0] == 200, 60)
        return ""

    def restore(self) -> str:
        """a restore of the first backup, and what it says was here before"""
        self.stop()
        said = self.heron("restore /var/backups/calm-heron/first.backup")
        assert "each table counted" in said, said
        kept = self.heron("kept")
        assert "before-" in kept, kept
        self.service_runs()
        until(lambda: self.page("/ready/")[0] == 200, 60)
        return said.split("\n")[0]

    # -- how it is done

    def inside(self, command: str, *, folder: str = "/", fails: bool = False) -> str:
        """Run a line of the guide in the root; ``sudo`` is there, and asks nobody."""
        done = subprocess.run(
            ["chroot", str(self.root), "bash", "-c", f"cd {folder} && {command}"],
            env=self.environment(),
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        if (done.returncode != 0) is not fails:
            raise Trouble(f"{command}\n{done.stdout[-3000:]}")
        return done.stdout

    def size_mb(self) -> str:
        """How much the root takes by now."""
        return self.inside("du -sm --exclude=/proc --exclude=/dev --exclude=/calm-heron.git / 2>/dev/null | cut -f1").strip()

    def heron(self, what: str, before: str = "", *, fails: bool = False) -> str:
        """One of our commands, as the guide has it: as the service's user, from the checkout."""
        return self.inside(f"sudo -u {USER} {before} ./heron {what}", folder=f"{HOME}/app", fails=fails)

    def begin(self, command: str, *, unshare: bool = False) -> subprocess.Popen[bytes]:
        said = self.root.parent / "said"
        with said.open("wb") as out:
            return subprocess.Popen(
                [*(["unshare", "--mount"] if unshare else []), "chroot", str(self.root), "bash", "-c", command],
                env=self.environment(),
                stdin=subprocess.DEVNULL,
                stdout=out,
                stderr=out,
                start_new_session=True,
            )

    @staticmethod
    def environment() -> dict[str, str]:
        # As of somebody who has signed in to a fresh machine, with this one's way to the package indexes.
        reaches = {name: value for name, value in os.environ.items() if name.startswith("PIP_") and "LINKS" not in name}
        return {
            "PATH": "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin",
            "HOME": "/root",
            "DEBIAN_FRONTEND": "noninteractive",
        } | reaches

    def stop(self) -> None:
        if self.service:
            # As systemd ends it: each program in the line gives its place to the next, so this is the start command itself.
            self.service.send_signal(signal.SIGTERM)
            with contextlib.suppress(subprocess.TimeoutExpired):
                self.service.wait(60)
        self.service = None

    def end(self) -> None:
        self.stop()
        subprocess.run(["chroot", str(self.root), "nginx", "-s", "stop"], check=False, stderr=subprocess.DEVNULL)

    def until_said(self, process: subprocess.Popen[bytes], words: str, seconds: float) -> None:
        said = self.root.parent / "said"
        end = time.monotonic() + seconds
        while words not in (text := said.read_text(errors="replace")):
            if process.poll() is not None or time.monotonic() > end:
                raise Trouble(f"It never said “{words}”:\n{text[-3000:]}")
            time.sleep(0.2)

    def page(self, address: str, scheme: str = "https", **form: str) -> tuple[int, str]:
        """What the proxy answers: its status, and the text."""
        request = urllib.request.Request(
            f"{scheme}://{NAME}{address}", urllib.parse.urlencode(form).encode() if form else None, {"Referer": f"https://{NAME}/"}
        )
        try:
            with self.opener.open(request, timeout=60) as answer:
                return answer.status, answer.read().decode(errors="replace")
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode(errors="replace")
        except OSError:
            return 0, ""

    def write(self, path: str, text: str) -> None:
        (self.root / path.lstrip("/")).write_text(f"{text}\n", encoding="utf-8")
