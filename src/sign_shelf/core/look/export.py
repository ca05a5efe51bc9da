"""A look for other programs: CSS custom properties, and design tokens (Design Tokens Format Module, W3C community group)."""

from pydantic import JsonValue

from sign_shelf.core.look.model import STATES, PlaceLook

_LENGTHS = (
    "size",
    "letter_spacing",
    "gap",
    "padding",
    "inner_gap",
    "gutter",
    "reserved",
    "icon_size",
    "caret_width",
    "badge_size",
    "badge_padding",
)
_COLOURS = ("accent", "accent_text", "below_text", "below_ground")
_WORDS = ("case", "icon_side", "align", "overflow", "opens", "effect")
_LINES = {"none": "none", "underline": "underline", "thick": "underline 2px"}
_ALIGN = {"start": "start", "centre": "center", "end": "end", "fill": "space-between"}


def css_properties(look: PlaceLook, *, prefix: str = "") -> dict[str, str]:
    """Custom properties by name, `--` and the prefix first. Lengths are in px."""
    found: dict[str, str] = {}

    def put(name: str, value: str) -> None:
        found[f"--{prefix}{name.replace('_', '-')}"] = value

    if look.font:
        put("font", f'"{look.font.replace(chr(34), "")}"')
    put("weight", str(look.weight))
    for name in _LENGTHS:
        put(name, _px(getattr(look, name)))
    put("max", _px(look.max) if look.max is not None else "none")
    for size, padding in look.button_padding:
        put(f"button_padding_{size}", _px(padding))
    for state in STATES:
        text, ground, line = look.colours(state)
        lead = "" if state == "normal" else f"{state}_"
        put(f"{lead}text", text)
        put(f"{lead}ground", ground)
        put(f"{lead}line", _LINES[line])
    for name in _COLOURS:
        put(name, getattr(look, name))
    put("case", look.case)
    put("align", _ALIGN[look.align])
    return found


def css_text(looks: dict[str, PlaceLook]) -> str:
    """A style sheet that sets the custom properties of every location on `:root`, each under its location's key."""
    lines = [":root {"]
    for key, look in looks.items():
        lines += [f"  {name}: {value};" for name, value in css_properties(look, prefix=f"{key}-").items()]
    return "\n".join([*lines, "}", ""])


def design_tokens(looks: dict[str, PlaceLook]) -> dict[str, JsonValue]:
    """One group for each location; what the format has no type for stands in `$extensions` of the group."""
    return {key: _group(look) for key, look in looks.items()}


def _group(look: PlaceLook) -> dict[str, JsonValue]:
    group: dict[str, JsonValue] = {}
    if look.font:
        group["font"] = {"$type": "fontFamily", "$value": look.font}
    group["weight"] = {"$type": "fontWeight", "$value": look.weight}
    for name in _LENGTHS:
        group[name.replace("_", "-")] = _dimension(getattr(look, name))
    if look.max is not None:
        group["max"] = _dimension(look.max)
    group["button-padding"] = {size: _dimension(padding) for size, padding in look.button_padding}
    for state in STATES:
        text, ground, _ = look.colours(state)
        group[state] = {"text": _colour(text), "ground": _colour(ground)}
    for name in _COLOURS:
        group[name.replace("_", "-")] = _colour(getattr(look, name))
    words: dict[str, JsonValue] = {name: getattr(look, name) for name in _WORDS}
    words["lines"] = {state: look.colours(state)[2] for state in STATES}
    words |= {"direction": look.direction, "folded": look.folded, "remember": look.remember}
    words["drawer_below"] = look.drawer_below
    group["$extensions"] = {"sign-shelf.look": words}
    return group


def _dimension(value: float) -> JsonValue:
    return {"$type": "dimension", "$value": {"value": value, "unit": "px"}}


def _colour(value: str) -> JsonValue:
    components: list[JsonValue] = [round(int(value[at : at + 2], 16) / 255, 5) for at in (1, 3, 5)]
    return {"$type": "color", "$value": {"colorSpace": "srgb", "components": components, "hex": value}}


def _px(value: float) -> str:
    return f"{value:g}px"
