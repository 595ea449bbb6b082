"""Which input is recorded from, remembered with the instrument."""

from __future__ import annotations

from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.verdicts import input_name


class InputChoice:
    """The chosen input; the simulated player until another is chosen."""

    def __init__(self, studio: StudioPort, session: SessionModel) -> None:
        self._studio, self._session = studio, session
        session.use_input(InputDevice(id=SIMULATED, name=input_name(SIMULATED)))

    @property
    def device(self) -> InputDevice:
        """What is recorded from."""
        return self._session.now.input

    @property
    def _key(self) -> str:
        owned = self._session.now.instrument
        return owned.id if owned else ""

    def choose(self, device: InputDevice) -> None:
        """Record from another device from now on."""
        self._session.use_input(device)
        if not self._studio.read_only:
            self._studio.set_setting(f"input_id:{self._key}", device.id)
            self._studio.set_setting(f"input_name:{self._key}", device.name)

    def load(self) -> None:
        """Take the device that was used last with this instrument."""
        studio = self._studio
        device_id = studio.setting(f"input_id:{self._key}", SIMULATED)
        name = studio.setting(f"input_name:{self._key}")
        self._session.use_input(InputDevice(id=device_id, name=name or input_name(device_id)))

    def offer(self, found: tuple[InputDevice, ...]) -> bool:
        """Take the first real input when none was ever chosen; says whether one was taken."""
        remembered = self._studio.setting(f"input_id:{self._key}")
        demo = bool(self._studio.setting("demo"))
        if not found or remembered or demo:
            return False
        self._session.use_input(found[0])
        return True
