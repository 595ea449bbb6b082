"""Version of the demo studio's content: cheap to import, so that a made studio opens at once."""

from __future__ import annotations

from jigwright.core.sound.heard import METHOD_VERSION

DEMO_VERSION = f"11.{METHOD_VERSION}"
