"""How Debian's Chromium is started, for tests, measuring and pictures: the build without windows takes a quarter less of a processor."""

from typing import Any

# The address field's own web pages start with every tab, and are never seen here. Naming
# features replaces what Playwright switches off: of that, what could change an answer is named again.
_SWITCHED_OFF = (
    "WebUIOmniboxPopup", "WebUIOmniboxFullPopup", "WebUIOmniboxAimPopup", "HttpsUpgrades",
    "HttpsFirstBalancedModeAutoEnable", "AvoidUnnecessaryBeforeUnloadCheckSync", "DestroyProfileOnBrowserClose",
    "OptimizationHints", "IsolateSandboxedIframes", "SpareRendererForSitePerProcess", "Translate", "NetworkTimeServiceQuerying", "PreconnectToSearch", "MediaRouter", "LensOverlay", "AimEnabled",
)  # fmt: skip
LAUNCH: dict[str, Any] = {
    "executable_path": "/usr/bin/chromium-headless-shell",
    "args": [
        "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
        "--disable-component-update", "--disable-sync", "--disable-dev-shm-usage",
        f"--disable-features={','.join(_SWITCHED_OFF)}",
    ],
}  # fmt: skip
"""Arguments for Playwright's `launch`."""
