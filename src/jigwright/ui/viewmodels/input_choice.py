"""Which input is recorded from, remembered with the instrument."""

from __future__ import annotations

import json

from jigwright.core.checking import words
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.services.remembered import remembered
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.wording.stand import input_name


class InputChoice:
    """The chosen input; the simulated player until another is chosen."""

    def __init__(self, desk: DeskModel) -> None:
        self._desk = desk
        self.device = InputDevice(id=SIMULATED, name=input_name(SIMULATED))

    @property
    def _key(self) -> str:
        owned = self._desk.owned
        return f"input:{owned.id if owned else ''}"

    def choose(self, device: InputDevice) -> None:
        """Record from another device from now on."""
        self.device = device
        if not self._desk.studio.read_only:
            self._desk.studio.set_setting(self._key, json.dumps([device.id, device.name]))

    def load(self) -> None:
        """Take the device that was used last with this instrument."""
        self.device = remembered(
            self._desk.studio, self._key,
            lambda kept: InputDevice(
                id=words(kept[0], "input", 200), name=words(kept[1], "input", 200)
            ),
            InputDevice(id=SIMULATED, name=input_name(SIMULATED)),
        )  # fmt: skip

    def offer(self, found: tuple[InputDevice, ...]) -> bool:
        """Take the first real input when none was ever chosen; says whether one was taken."""
        remembered = self._desk.studio.setting(self._key)
        demo = bool(self._desk.studio.setting("demo"))
        if not found or remembered or demo:
            return False
        self.device = found[0]
        return True
