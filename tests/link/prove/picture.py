# SPDX-License-Identifier: Apache-2.0
"""A picture of a page after so many seconds: ADDRESS FILE.png SECONDS [dark]."""
import sys

from browser import Browser

browser = Browser(1280, 800, "dark" in sys.argv)
browser.open(sys.argv[1], float(sys.argv[3]) - 1)
browser.press("m")
browser.wait(1)
browser.picture(sys.argv[2])
browser.close()
