"""MEI to one endless line of SVG that QtSvg draws faithfully.

QtSvg skips nested ``<svg>`` elements and nested text spans, so the engraver's output is flattened:
the inner ``<svg>`` becomes a group, styles become attributes, text becomes plain runs.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from dataclasses import replace
from functools import cache
from pathlib import Path

import verovio
from defusedxml import ElementTree as SafeET

from jigwright.core.errors import JigError
from jigwright.services.notation import (
    INK,
    Engraved,
    EngraveRequest,
    HeadBox,
    Sheet,
    SheetRequest,
)

_SVG = "{http://www.w3.org/2000/svg}"
_XLINK = "{http://www.w3.org/1999/xlink}"
_TRANSLATE = re.compile(r"translate\(\s*([-\d.]+)[ ,]+([-\d.]+)\s*\)")
_MUSIC_FONT = "Leipzig"
_WIDEST = 1.0  # spacing that the engraver takes
_SEAM_MARGIN = 44  # sheets follow each other as lines do
_HEAD_WIDTH, _HEAD_HEIGHT = 212.0, 180.0
_BLACK = ("currentColor", "black", "#000", "#000000")
_DRAWN = {f"{_SVG}{n}" for n in ("path", "polygon", "polyline", "rect", "line", "ellipse")}
_DROPPED = (f"{_SVG}style", f"{_SVG}desc")


class VerovioEngraver:
    """Engraves jigs; holds one toolkit."""

    def __init__(self) -> None:
        self._toolkit = verovio.toolkit()
        self._laid_out: SheetRequest | None = None

    def engrave(self, request: EngraveRequest) -> Engraved:
        """Engrave one line near the wished width.

        Raises
        ------
        JigError
            If the notation cannot be engraved.
        """
        if request.wrap:
            return _adapt(self._render(request, 0.3), request)
        spacing, best = 0.4, None
        for _ in range(5):
            svg = self._render(request, spacing)
            width = _width_px(svg)
            best = svg
            if abs(width - request.target_width) < 12 or (
                width > request.target_width and spacing <= 0.12
            ):
                break
            spacing = min(_WIDEST, max(0.12, spacing * (request.target_width / width) ** 1.3))
        assert best is not None
        return _adapt(best, request)

    def pages(self, request: EngraveRequest, page_height: float) -> tuple[str, ...]:
        """Engrave pages of a height in pixels; one adapted SVG text for each.

        Raises
        ------
        JigError
            If the notation cannot be engraved.
        """
        self._lay_out(request, 0.3, page_height=page_height)
        return tuple(
            _adapt(str(self._toolkit.renderToSVG(n)), request).svg
            for n in range(1, self._toolkit.getPageCount() + 1)
        )

    def sheet(self, request: SheetRequest) -> Sheet:
        """Engrave one sheet; the layout is kept, so that further ones of the same cost less.

        Raises
        ------
        JigError
            If the notation cannot be engraved.
        """
        layout = replace(request, index=0)
        if layout != self._laid_out:
            self._lay_out(request.engrave, 0.3, page_height=request.height, margin=_SEAM_MARGIN)
            self._laid_out = layout
        n_sheets = int(self._toolkit.getPageCount())
        index = min(request.index, n_sheets - 1)
        svg = str(self._toolkit.renderToSVG(index + 1))
        return Sheet(index=index, n_sheets=n_sheets, engraved=_adapt(svg, request.engrave))

    def _lay_out(
        self,
        request: EngraveRequest,
        spacing: float,
        *,
        page_height: float = 0.0,
        margin: int = 10,
    ) -> None:
        self._laid_out = None
        self._toolkit.setOptions(
            {
                "breaks": "auto" if request.wrap else "none",
                "adjustPageWidth": not request.wrap, "adjustPageHeight": True,
                "header": "none", "footer": "none", "pageMarginLeft": 0, "pageMarginRight": 0,
                "pageMarginTop": 10, "pageMarginBottom": margin, "scale": request.scale,
                "svgViewBox": True, "svgFormatRaw": True, "xmlIdSeed": 1, "spacingLinear": spacing,
                "spacingNonLinear": 0.55,
                "pageHeight": round(100 * page_height / request.scale) if page_height else 60_000,
                "spacingSystem": 6,
                "pageWidth": round(100 * request.target_width / request.scale)
                if request.wrap
                else 100_000,
            }
        )  # fmt: skip
        if not self._toolkit.loadData(request.mei):
            raise JigError("this jig cannot be engraved")

    def _render(self, request: EngraveRequest, spacing: float) -> str:
        self._lay_out(request, spacing)
        return str(self._toolkit.renderToSVG(1))


def _width_px(svg: str) -> float:
    found = re.search(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', svg)
    return float(found[1]) if found else 1.0


def _adapt(svg: str, request: EngraveRequest) -> Engraved:
    root = SafeET.fromstring(svg)
    outer = [float(v) for v in root.get("viewBox", "0 0 1 1").split()]
    inner = next(e for e in root.iter(f"{_SVG}svg") if e.get("class") == "definition-scale")
    box = [float(v) for v in inner.get("viewBox", "0 0 1 1").split()]
    units_per_px = box[2] / outer[2]
    inner.tag = f"{_SVG}g"
    for name in ("viewBox", "color", "class"):
        inner.attrib.pop(name, None)
    root.set("viewBox", f"0 0 {box[2]:g} {box[3]:g}")
    for name in ("overflow", "id"):
        root.attrib.pop(name, None)
    root.set("fill", INK)
    origin = _origin(inner)
    _clean(root)
    wanted = {element: note for note, element in request.head_ids}
    heads = _heads(root, wanted, origin, units_per_px)
    top, bottom = _staff_lines(root, origin, units_per_px)
    ET.register_namespace("", _SVG[1:-1])
    ET.register_namespace("xlink", _XLINK[1:-1])
    return Engraved(
        svg=ET.tostring(root, encoding="unicode"), width=outer[2], height=outer[3],
        staff_top=top, staff_bottom=bottom, heads=heads,
    )  # fmt: skip


def _origin(inner: ET.Element) -> tuple[float, float]:
    for group in inner.iter(f"{_SVG}g"):
        if "page-margin" in group.get("class", ""):
            match = _TRANSLATE.search(group.get("transform", ""))
            if match:
                return float(match[1]), float(match[2])
    return 0.0, 0.0


def _clean(root: ET.Element) -> None:
    texts = []
    for parent in list(root.iter()):
        for name in ("fill", "stroke", "color"):
            if parent.attrib and parent.get(name) in _BLACK:
                parent.set(name, INK)
        tag = parent.tag
        if tag in _DRAWN and parent.get("stroke-width") and not parent.get("stroke"):
            parent.set("stroke", INK)
        elif tag == f"{_SVG}text":
            texts.append(parent)
        for child in list(parent):
            if child.tag in _DROPPED or (
                child.tag == f"{_SVG}ellipse" and float(child.get("cx") or 0) == 0
            ):
                parent.remove(child)
    for text in texts:
        _flatten_text(text)
    _draw_note_signs(root)


def _draw_note_signs(root: ET.Element) -> None:
    """Note values in words (of a tempo) as outlines: no font for words has them."""
    for parent in list(root.iter()):
        for text in [c for c in parent if c.tag == f"{_SVG}text"]:
            signs, words = _leading_signs(text.text or "")
            if not signs:
                continue
            x, y = float(text.get("x") or 0), float(text.get("y") or 0)
            scale = float((text.get("font-size") or "300px").removesuffix("px")) / 1000.0
            at = list(parent).index(text)
            for sign in signs:
                glyph = _glyph(sign)
                if glyph is not None:
                    outline, advance = glyph
                    place = f"translate({x:g},{y:g}) scale({scale:g},{-scale:g})"
                    path = ET.Element(f"{_SVG}path", d=outline, fill=INK, transform=place)
                    parent.insert(at, path)
                    x += advance * scale
            text.text = words
            text.set("x", f"{x + (60 if words.startswith('.') else 220) * scale:g}")


def _leading_signs(words: str) -> tuple[str, str]:
    """Signs of a music font that words begin with, and the rest without any."""
    n = next((k for k, c in enumerate(words) if not _is_sign(c)), len(words))
    return words[:n], "".join(c for c in words[n:] if not _is_sign(c)).strip()


def _is_sign(character: str) -> bool:
    return "\ue000" <= character <= "\uf8ff"


@cache
def _glyph(character: str) -> tuple[str, float] | None:
    """Outline of a sign of the engraver's music font, and how far it reaches; 1000 to the em."""
    folder, name = Path(verovio.__file__).parent / "data", f"{ord(character):X}"
    try:
        symbol = SafeET.parse(folder / _MUSIC_FONT / f"{name}.xml").getroot()
        table = SafeET.parse(folder / f"{_MUSIC_FONT}.xml").getroot()
    except (OSError, ET.ParseError):
        return None
    outline = next((p.get("d") for p in symbol.iter() if p.get("d")), None)
    row = next((g for g in table.iter("g") if g.get("c") == name), None)
    if outline is None or row is None:
        return None
    return outline, float(row.get("h-a-x") or row.get("w") or 0.0)


def _flatten_text(text: ET.Element) -> None:
    words, size, style = "", "", ""
    for part in text.iter():
        words += (part.text or "").strip()
        size = part.get("font-size") or size if part.get("font-size") != "0px" else size
        style = part.get("font-style") or style
    for child in list(text):
        text.remove(child)
    text.text = words
    text.set("font-size", size or "300px")
    text.set("font-family", "Lato")
    if style:
        text.set("font-style", style)


def _heads(
    root: ET.Element, wanted: dict[str, str], origin: tuple[float, float], units: float
) -> tuple[HeadBox, ...]:
    heads = []
    for note in root.iter(f"{_SVG}g"):
        note_id = wanted.get(note.get("id", ""))
        if note_id is None:
            continue
        for group in note.iter(f"{_SVG}g"):
            if group.get("class") != "notehead":
                continue
            group.set("id", f"h-{note.get('id')}")
            use = next(iter(group.iter(f"{_SVG}use")), None)
            match = _TRANSLATE.search(use.get("transform", "")) if use is not None else None
            if match:
                heads.append(
                    HeadBox(
                        note_id=note_id,
                        x=(float(match[1]) + origin[0]) / units,
                        y=(float(match[2]) + origin[1]) / units,
                        width=_HEAD_WIDTH / units,
                        height=_HEAD_HEIGHT / units,
                    )
                )
            break
    return tuple(sorted(heads, key=lambda h: h.x))


def _staff_lines(
    root: ET.Element, origin: tuple[float, float], units: float
) -> tuple[float, float]:
    for staff in root.iter(f"{_SVG}g"):
        if staff.get("class") != "staff":
            continue
        ys = []
        for path in staff:
            found = re.match(r"M[-\d.]+ ([-\d.]+) L", path.get("d", ""))
            if path.tag == f"{_SVG}path" and found:
                ys.append(float(found[1]))
        if len(ys) >= 2:
            return (min(ys) + origin[1]) / units, (max(ys) + origin[1]) / units
    return 0.0, 0.0
