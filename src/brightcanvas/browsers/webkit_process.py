"""A program of its own: WebKit in a GTK window, told line by line what to do.

It runs with the system's Python, which has GTK, and imports nothing of ours. Each line of its input
is JSON and is answered with one line of JSON, ``{"value": ...}`` or ``{"error": "..."}``:

- ``{"do": "open", "url": ..., "width": ..., "height": ..., "calm": ..., "mute": ...}`` loads a page
  in a new window of so many CSS px, with nothing kept from before; ``calm``: less motion is wanted;
  ``mute``: clips may not start by themselves.
- ``{"do": "evaluate", "script": ...}``: an expression; promises are waited for.
- ``{"do": "screenshot", "path": ...}`` draws what is seen into a PNG file.
"""

# mypy: ignore-errors
# ruff: noqa: ANN001, ANN002, ANN003, ANN201, ANN202, ANN204, T201

import json
import sys
from urllib.parse import urlsplit

import gi

gi.require_version("Gtk", "3.0")
gi.require_version("WebKit2", "4.1")
from gi.repository import GLib, Gtk, WebKit2  # noqa: E402

QUIET, WORLD, LONGEST_LOAD = sys.argv[1], sys.argv[2], int(sys.argv[3])
"""A script to run before those of a page, the world for ours, seconds for a page to load."""


def main():
    """Answer until the input ends."""
    commands = _Commands()
    GLib.io_add_watch(0, GLib.PRIORITY_DEFAULT, GLib.IO_IN | GLib.IO_HUP, commands.take)
    Gtk.main()


def _answer(**said):
    print(json.dumps(said), flush=True)


class _Commands:
    """Carries one command out after the other."""

    def __init__(self):
        self.window = self.view = None
        self.is_loading = False

    def take(self, *_):
        line = sys.stdin.buffer.readline()
        if not line:
            Gtk.main_quit()
            return False
        asked = json.loads(line)
        {"open": self.open, "evaluate": self.evaluate, "screenshot": self.draw}[asked["do"]](asked)
        return True

    def open(self, asked):
        if self.window is not None:
            self.window.destroy()
        Gtk.Settings.get_default().set_property("gtk-enable-animations", not asked["calm"])
        self.window = Gtk.Window()
        self.window.set_decorated(False)
        self.window.set_default_size(asked["width"], asked["height"])
        self.view = _view(asked["url"], is_mute=asked["mute"])
        self.window.add(self.view)
        self.window.show_all()
        self.is_loading = True
        view = self.view
        view.connect("load-changed", self._changed)
        view.load_uri(asked["url"])
        GLib.timeout_add_seconds(LONGEST_LOAD, self._end_loading, view)

    def _changed(self, view, event):
        if event == WebKit2.LoadEvent.FINISHED:
            self._end_loading(view)

    def _end_loading(self, view):
        """A load that never ends is told as it is."""
        if view is self.view and self.is_loading:
            self.is_loading = False
            _answer(value=None)
        return False

    def evaluate(self, asked):
        body = f"return JSON.stringify(await ({asked['script']}))"
        self.view.call_async_javascript_function(
            body, -1, None, WORLD, None, None, self._evaluated, None
        )

    def _evaluated(self, view, result, _):
        try:
            value = view.call_async_javascript_function_finish(result)
        except GLib.Error as error:
            _answer(error=error.message)
            return
        _answer(value=json.loads(value.to_string()) if value.is_string() else None)

    def draw(self, asked):
        region, plain = WebKit2.SnapshotRegion.VISIBLE, WebKit2.SnapshotOptions.NONE
        self.view.get_snapshot(region, plain, None, self._drawn, asked["path"])

    def _drawn(self, view, result, path):
        view.get_snapshot_finish(result).write_to_png(path)
        _answer(value=None)


def _view(url, *, is_mute):
    """A view with caches of its own, which asks everything of the page's server.

    All else is asked of that as of a proxy, which hands nothing on.
    """
    context = WebKit2.WebContext.new_ephemeral()
    host = urlsplit(url).netloc
    shut = WebKit2.NetworkProxySettings.new(f"http://{host}", [host])
    manager = context.get_website_data_manager()
    manager.set_network_proxy_settings(WebKit2.NetworkProxyMode.CUSTOM, shut)
    policies = WebKit2.AutoplayPolicy
    policy = policies.DENY if is_mute else policies.ALLOW
    content = WebKit2.UserContentManager()
    content.add_script(WebKit2.UserScript(
        QUIET, WebKit2.UserContentInjectedFrames.ALL_FRAMES,
        WebKit2.UserScriptInjectionTime.START, None, None,
    ))  # fmt: skip
    view = WebKit2.WebView(
        web_context=context, user_content_manager=content,
        website_policies=WebKit2.WebsitePolicies(autoplay=policy),
    )  # fmt: skip
    view.get_settings().set_enable_write_console_messages_to_stdout(False)
    view.connect("script-dialog", lambda *_: True)
    return view


if __name__ == "__main__":
    main()
