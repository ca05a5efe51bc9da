"""Notices: what is told to whom without being asked, in which words, when, and when it is tried again."""

from sign_shelf.core.notices.said import (
    AtOnce,
    Cause,
    Daily,
    Given,
    Notice,
    Owed,
    Stays,
    ToReview,
    Trial,
    Waiting,
    any_notice,
    payload,
    subject,
    text,
)
from sign_shelf.core.notices.tries import next_try
from sign_shelf.core.notices.wishes import OfSite, Wishes, next_daily, usual

__all__ = [
    "AtOnce",
    "Cause",
    "Daily",
    "Given",
    "Notice",
    "OfSite",
    "Owed",
    "Stays",
    "ToReview",
    "Trial",
    "Waiting",
    "Wishes",
    "any_notice",
    "next_daily",
    "next_try",
    "payload",
    "subject",
    "text",
    "usual",
]
