"""A sound server without hardware, for tests and long runs: a sink, and a microphone there."""

from __future__ import annotations

import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_PROGRAMS = ("pulseaudio", "pactl", "pacat", "paplay")
_LAB = """\
load-module module-native-protocol-unix auth-anonymous=1 socket={socket}
load-module module-null-sink sink_name=hall rate=48000 channels=1
load-module module-remap-source source_name=microphone master=hall.monitor
set-default-sink hall
set-default-source microphone
"""
MICROPHONE = "microphone"


class NoLabError(Exception):
    """The server is not installed or does not start here."""


def lab_environment(folder: Path) -> dict[str, str]:
    """Variables that lead programs to the server in a folder."""
    return {
        "XDG_RUNTIME_DIR": str(folder), "PULSE_SERVER": f"unix:{folder / 'native'}",
        "HOME": str(folder),
    }  # fmt: skip


@contextmanager
def lab_server(folder: Path, environment: dict[str, str]) -> Iterator[None]:
    """Run the server until the block ends.

    Parameters
    ----------
    folder : Path
        Short (sockets have short names) and private; it is made and removed.
    environment : dict
        The process's environment with :func:`lab_environment` in it.

    Raises
    ------
    NoLabError
    """
    server = shutil.which("pulseaudio")
    if server is None or not all(shutil.which(p) for p in _PROGRAMS):
        raise NoLabError("no sound server is installed (pulseaudio, pulseaudio-utils)")
    folder.mkdir(mode=0o700, exist_ok=True)
    socket, script = folder / "native", folder / "lab.pa"
    script.write_text(_LAB.format(socket=socket))
    process = subprocess.Popen(
        [server, "-n", "-F", str(script), "--daemonize=no", "--exit-idle-time=-1",
         "--use-pid-file=no", "--log-target=stderr", "--log-level=error"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env=environment,
    )  # fmt: skip
    try:
        _wait(process, socket, environment)
        yield
    finally:
        process.terminate()
        process.wait(5)
        shutil.rmtree(folder, ignore_errors=True)


def _wait(process: subprocess.Popen[bytes], socket: Path, environment: dict[str, str]) -> None:
    control = shutil.which("pactl") or "pactl"
    for _ in range(100):
        if process.poll() is not None:
            raise NoLabError("the sound server does not start on this machine")
        if socket.exists():
            listed = subprocess.run(
                [control, "list", "short", "sources"], capture_output=True, text=True,
                env=environment, timeout=10, check=False,
            )  # fmt: skip
            if MICROPHONE in listed.stdout:
                return
        time.sleep(0.1)
    raise NoLabError("the sound server does not answer on this machine")
