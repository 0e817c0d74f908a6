"""Which browser is driven: Debian's without a window, which takes a quarter less time than the one that draws one."""

CHROMIUM = "/usr/bin/chromium-headless-shell"
