# SPDX-License-Identifier: Apache-2.0
"""A page in headless Chromium, by its debugging port: what it asks for, what it logs, what it shows."""
import base64
import json
import subprocess
import tempfile
import time
import urllib.request

import websocket


class Browser:
    def __init__(self, width=1280, height=800, dark=False):
        self.folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.process = subprocess.Popen(
            ["chromium", "--headless=new", "--no-sandbox", "--disable-gpu", "--hide-scrollbars",
             "--remote-debugging-port=0", "--remote-allow-origins=*", f"--user-data-dir={self.folder.name}",
             f"--window-size={width},{height}", "about:blank"], stderr=subprocess.PIPE, text=True)
        for line in self.process.stderr:
            if "DevTools listening on" in line:
                port = line.split("127.0.0.1:")[1].split("/")[0]
                break
        pages = json.load(urllib.request.urlopen(f"http://127.0.0.1:{port}/json"))
        self.socket = websocket.create_connection(
            next(p for p in pages if p["type"] == "page")["webSocketDebuggerUrl"], timeout=30)
        self.number = 0
        self.events = []
        for domain in ("Page", "Runtime", "Network", "Log"):
            self.call(f"{domain}.enable")
        self.call("Emulation.setEmulatedMedia",
                  features=[{"name": "prefers-color-scheme", "value": "dark" if dark else "light"}])
        self.call("Emulation.setDeviceMetricsOverride", width=width, height=height, deviceScaleFactor=1,
                  mobile=width < 600)

    def call(self, method, **params):
        self.number += 1
        self.socket.send(json.dumps({"id": self.number, "method": method, "params": params}))
        while True:
            message = json.loads(self.socket.recv())
            if message.get("id") == self.number:
                return message.get("result", {})
            self.events.append(message)

    def open(self, address, seconds):
        self.call("Page.navigate", url=address)
        self.wait(seconds)

    def wait(self, seconds):
        end = time.time() + seconds
        while time.time() < end:
            self.call("Runtime.evaluate", expression="1")
            time.sleep(0.05)

    def value(self, expression):
        return self.call("Runtime.evaluate", expression=expression, returnByValue=True)["result"].get("value")

    def press(self, key):
        for kind in ("keyDown", "keyUp"):
            self.call("Input.dispatchKeyEvent", type=kind, key=key, text=key if kind == "keyDown" else "")

    def picture(self, path):
        data = self.call("Page.captureScreenshot", format="png")["data"]
        with open(path, "wb") as file:
            file.write(base64.b64decode(data))

    def requests(self):
        return [e["params"]["request"]["url"] for e in self.events if e.get("method") == "Network.requestWillBeSent"]

    def logged(self):
        return [e["params"] for e in self.events
                if e.get("method") in ("Runtime.consoleAPICalled", "Runtime.exceptionThrown", "Log.entryAdded")]

    def close(self):
        self.process.kill()
        self.process.wait()
        self.socket.close()
        self.folder.cleanup()
