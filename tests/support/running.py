"""The whole product as a user starts it: `pontifex demo` in a process of its own, on a state directory of the test's."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
from dataclasses import dataclass, field
from pathlib import Path
from threading import Timer

from pontifex.api import Sessions
from pontifex.store.master_key import decoded

PATIENCE_S = 180.0


@dataclass
class RunningProduct:
    """Starts, stops and kills the product; the state directory outlives it."""

    state: Path
    settings: dict[str, str] = field(default_factory=dict)
    printed_address: str = ""
    printed: str = ""
    port: int = 0
    _process: subprocess.Popen[str] | None = None

    def start(self) -> str:
        """Start the product and return the address that it prints."""
        environment = {**os.environ, "PONTIFEX_STATE": str(self.state), "PONTIFEX_PORT": str(self.port), **self.settings}
        command = [sys.executable, "-m", "pontifex.cli", "demo"]
        self._process = subprocess.Popen(
            command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, start_new_session=True
        )
        self.printed_address = self._read_address()
        self.port = int(re.search(r":(\d+)/", self.printed_address)[1])  # type: ignore[index]
        return self.printed_address

    def _read_address(self) -> str:
        assert self._process is not None
        stream = self._process.stdout
        assert stream is not None
        timer = Timer(PATIENCE_S, self._process.kill)
        timer.start()
        self.printed = ""
        for line in stream:
            self.printed += line
            if found := re.search(r"http://\S+/open/\S+", line):
                timer.cancel()
                return found[0]
        timer.cancel()
        raise AssertionError(f"the product did not start:\n{self.printed}")

    @property
    def base(self) -> str:
        """The address without the ticket."""
        return self.printed_address.partition("/open/")[0]

    @property
    def address(self) -> str:
        """Another address that opens one session, as `pontifex ticket` prints it."""
        text = self.settings.get("PONTIFEX_MASTER_KEY") or (self.state / "master-key").read_text()
        return f"{self.base}/open/{Sessions(decoded(text, 'the master key'), 'engineer').ticket()}"

    def stop(self, how: signal.Signals = signal.SIGINT) -> str:
        """Stop the product as Ctrl-C does; return what it printed since it was ready."""
        if self._process is None:
            return ""
        self._process.send_signal(how)
        rest, _ = self._process.communicate(timeout=PATIENCE_S)
        self._process = None
        return rest
