"""Bars for the fit's tests and benchmark, and the same bars as HTML for a browser to lay out."""

from collections.abc import Iterable
from html import escape
from itertools import product

from sign_shelf.core.fit import FitItem, FitRequest
from sign_shelf.core.model.documents import read

LABELS = {
    "en": ["Timetables", "Fares & offers", "Plan a visit", "AVAILABLE To Rent", "office affairs", "Book"],
    "nl": ["Dienstregeling", "Tarieven", "Veelgestelde vragen", "IJsbrekers", "Contact", "Boeken"],
    "cy": ["Amserlenni", "Tŷ coffi", "Cynllunio ymweliad", "Llŷr a’r dŵr", "Newyddion", "Archebu"],
    "pl": ["Rozkład jazdy", "Żegluga", "Zaplanuj wizytę", "Łódź i źdźbło", "Aktualności", "Kup bilet"],
    "de": ["Fahrpläne", "Großraumbüro", "Öffnungszeiten", "Veranstaltungsübersicht", "Über uns", "Buchen"],
    "ar": ["المواعيد", "أسعار التذاكر", "خطط لزيارتك", "الأسئلة الشائعة", "اتصل بنا 24", "احجز"],
}
_LOOKS: list[dict[str, object]] = [
    {},
    {"size": 13.5, "weight": 700},
    {"transform": "uppercase", "letter_spacing": 1.25, "weight": 600},
    {"size": 21, "gap": 9.5, "padding": 0, "inner_gap": 3},
    {"letter_spacing": -0.4, "weight": 300, "caret_width": 10, "icon_width": 17},
]


def bars(font: str) -> list[FitRequest]:
    """Every language × look × direction for a font, with every part that an entry can have."""
    found = []
    for (language, labels), look, direction in product(LABELS.items(), _LOOKS, ("ltr", "rtl")):
        items: list[dict[str, object]] = [{"label": label} for label in labels]
        items[0] |= {"caret": True, "badge": labels[5]}
        items[1] |= {"icon": True}
        items[2] |= {"button": "m", "strong": True}
        items[3] |= {"icon": True, "icon_only": True, "caret": True}
        items[4] |= {"picture": True, "badge": labels[0]}
        items[5] |= {"button": ["s", "l", "xl"][len(found) % 3]}
        raw = {
            "font": font,
            "direction": direction,
            "language": language,
            "items": items,
            "container": {"max": 1_200, "gutter": 24, "reserved": 120},
        }
        found.append(read(FitRequest, raw | look))
    return found


def page_of(requests: Iterable[FitRequest], fonts_css: str) -> str:
    """The bars as a page: each in a box that stands for the viewport, `.view`, with its entries in a wrapping `ul`."""
    return (
        f'<!doctype html><meta charset="utf-8"><link rel="stylesheet" href="{fonts_css}"><style>'
        "* {box-sizing: border-box; margin: 0} ul {list-style: none; padding: 0; display: flex; flex-wrap: wrap}"
        "li {flex: none} a {display: inline-flex; align-items: center; white-space: nowrap}"
        "i, b, img {display: block; height: 8px} body {text-rendering: geometricPrecision}"
        ".view {position: relative}</style>" + "".join(map(_bar, requests))
    )


def _bar(bar: FitRequest) -> str:
    family = f"'{bar.font}', 'Noto Sans Arabic', 'Noto Sans'"
    box = bar.container
    inner = f"min({box.max}px, 100% - {2 * box.gutter}px)" if box.max is not None else f"100% - {2 * box.gutter}px"
    return (
        f'<div class="view"><ul dir="{bar.direction}" lang="{bar.language}" style="width: calc({inner} - {box.reserved}px);'
        f"font: {bar.weight} {bar.size}px {family}; letter-spacing: {bar.letter_spacing}px; gap: 4px {bar.gap}px;"
        f'text-transform: {bar.transform}">{"".join(_entry(bar, item) for item in bar.items)}</ul></div>'
    )


def _entry(bar: FitRequest, item: FitItem) -> str:
    padding = getattr(bar.button_padding, item.button) if item.button else bar.padding
    weight = "; font-weight: 700" if item.strong else ""
    parts = [
        '<img alt="" style="width: 32px">' if item.picture else "",
        f'<i style="width: {bar.icon_width}px"></i>' if item.icon else "",
        f"<span>{escape(item.label)}</span>" if not item.icon_only else "",
        f'<small style="font-size: {bar.badge_size}px; padding: 0 {bar.badge_padding}px">{escape(item.badge)}</small>'
        if item.badge
        else "",
        f'<b style="width: {bar.caret_width}px"></b>' if item.caret else "",
    ]
    return f'<li><a style="gap: {bar.inner_gap}px; padding: 0 {padding}px{weight}">{"".join(parts)}</a></li>'
