"""`green-satchel serve`: the application for one person or a small office, until it is stopped."""

import argparse
import ipaddress
import os
import socket
import subprocess
import sys
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager

from host.place import add_data, environment_of
from host.supervisor import run_together

__all__ = [
    "commands_of",
    "manage",
    "serve_command",
    "why_not_heard",
    "why_not_shared",
    "why_unsafe",
    "work_command",
]

_EPILOG = """examples:
  green-satchel people add warden --data /srv/green-satchel
  green-satchel serve --data /srv/green-satchel

By itself it is reached from this machine only. For an office, put it behind a web server that
speaks TLS (docs/installing.md), and say so: GREEN_SATCHEL_TLS=1 GREEN_SATCHEL_HOSTS=the.name"""
_SERVER_OPTIONS = (
    *("--threads=8", "--connection-limit=1000", "--asyncore-use-poll", "--channel-timeout=60"),
    "--max-request-body-size=510000000",
    # At a time, of a file that comes in: each piece looks at all connections again.
    "--recv-bytes=65536",
)
# What has been compiled is loaded in less.
_LONG_S = 5
_SHARED = ("GREEN_SATCHEL_DATABASE_URL", "GREEN_SATCHEL_FILES", "GREEN_SATCHEL_SECRET_KEY")
# What a web server in front of it says of whoever asks; from this machine alone.
_PROXY_OPTIONS = (
    "--trusted-proxy=127.0.0.1",
    "--trusted-proxy-count=1",
    "--trusted-proxy-headers=x-forwarded-for x-forwarded-proto x-forwarded-host",
    "--clear-untrusted-proxy-headers",
)


def serve_command(arguments: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(
        prog="green-satchel serve",
        description=__doc__,
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--host", default="127.0.0.1", help="the address to listen at")
    parser.add_argument("--port", type=int, default=8000)
    _add_workers(parser)
    add_data(parser)
    options = parser.parse_args(arguments)
    environment = environment_of(options.data)
    reason = (
        why_not_shared(environment)
        or why_unsafe(options.host, environment)
        or why_not_heard(options.host, options.port)
    )
    if reason:
        print(f"green-satchel serve: {reason}", file=sys.stderr)
        return 2
    with _compiling(environment):
        manage(["make_ready"], environment)
    print(f"Green Satchel: http://{options.host}:{options.port}  (Ctrl-C stops it)", flush=True)
    return run_together(
        commands_of(options.host, options.port, options.workers, environment), environment
    )


@contextmanager
def _compiling(environment: Mapping[str, str]) -> Iterator[None]:
    """Compile what jobs need beside what is done within, if that has not been done yet."""
    command = [sys.executable, "-m", "lighten.worker_start"]
    with subprocess.Popen(command, env=environment) as process:
        yield
        try:
            process.wait(_LONG_S)
        except subprocess.TimeoutExpired:
            print("Compiling what is to be quick (once, a minute or two) ...", flush=True)


def work_command(arguments: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(
        prog="green-satchel work",
        description="Workers alone, on another machine of an installation (docs/installing.md).",
    )
    _add_workers(parser)
    add_data(parser)
    options = parser.parse_args(arguments)
    environment = environment_of(options.data)
    reason = why_not_shared(environment)
    if not reason and "GREEN_SATCHEL_REDIS_URL" not in environment:
        reason = "set GREEN_SATCHEL_REDIS_URL to the queue of the installation."
    if reason:
        print(f"green-satchel work: {reason}", file=sys.stderr)
        return 2
    with _compiling(environment):
        pass
    return run_together([_WORKER] * options.workers, environment)


def _add_workers(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--workers",
        type=int,
        default=min(4, len(os.sched_getaffinity(0))),
        help="documents that are worked on at a time (%(default)s)",
    )


def commands_of(
    host: str, port: int, workers: int, environment: Mapping[str, str]
) -> list[list[str]]:
    """The server, and workers beside it."""
    proxy = _PROXY_OPTIONS if environment.get("GREEN_SATCHEL_TLS") == "1" else ()
    # It takes a whole request before that takes up a thread, so that slow clients hold up nobody.
    at = f"--listen={host}:{port}"
    server = [sys.executable, "-m", "waitress", at, *_SERVER_OPTIONS, *proxy]
    return [[*server, "config.wsgi:application"], *([_WORKER] * workers)]


_MANAGE = (sys.executable, "-m", "django")
_WORKER = [*_MANAGE, "work", "--interval=0.3"]


def manage(command: Sequence[str], environment: Mapping[str, str]) -> None:
    """Run a management command in a child process. Raises: CalledProcessError."""
    subprocess.run([*_MANAGE, *command], env=environment, check=True)


def why_unsafe(host: str, environment: Mapping[str, str]) -> str:
    """Return the reason for not serving there, with advice; or ""."""
    is_demo = environment.get("GREEN_SATCHEL_DEMO") == "1"
    if environment.get("GREEN_SATCHEL_DEBUG") == "1" and not _is_this_machine(host):
        return "GREEN_SATCHEL_DEBUG shows its insides to everybody. Take it out."
    if is_demo and not _is_this_machine(host):
        return "the demo signs everybody in, so it is served at 127.0.0.1 only."
    if len(environment.get("GREEN_SATCHEL_SECRET_KEY", "")) < 50:
        return "GREEN_SATCHEL_SECRET_KEY is too short. Take it out: one is made by itself."
    if not _is_this_machine(host) and environment.get("GREEN_SATCHEL_TLS") != "1":
        return (
            f"at {host} passwords would go over the network for all to read. Put a web server with "
            "TLS in front of it (docs/installing.md) and set GREEN_SATCHEL_TLS=1."
        )
    return ""


def why_not_heard(host: str, port: int) -> str:
    """Return the reason that the port cannot be opened, with advice; or ""."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        # As servers do it, so that one that has just ended is in nobody's way.
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host.strip("[]"), port))
        except OSError as error:
            return f"cannot listen at {host}:{port}: {error.strerror}. Choose another port."
    return ""


def why_not_shared(environment: Mapping[str, str]) -> str:
    """Return the reason that several machines cannot share the installation, with advice; or ""."""
    if "GREEN_SATCHEL_REDIS_URL" not in environment:
        return ""
    missing = [name for name in _SHARED if name not in environment]
    if missing:
        return (
            f"with GREEN_SATCHEL_REDIS_URL all machines share the same database, files and secret: "
            f"set {' and '.join(missing)} as well, on each to the same."
        )
    return ""


def _is_this_machine(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False
