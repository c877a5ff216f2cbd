"""A program of its own: a WebKit window of an exact size loads a page and tells what it saw.

It runs with the system's Python, which has GTK, and imports nothing of ours. Its one argument is
JSON: ``url``, ``width`` and ``height`` in CSS px, ``patience`` in seconds after the load,
``script`` whose value is told, ``picture`` to draw what is seen into, ``calm`` for less motion,
``mute`` to forbid that clips start by themselves. It writes one line of JSON.
"""

# mypy: ignore-errors
# ruff: noqa: ANN001, ANN201, ANN202, T201

import json
import sys
from urllib.parse import urlsplit

import gi

gi.require_version("Gtk", "3.0")
gi.require_version("WebKit2", "4.1")
from gi.repository import GLib, Gtk, WebKit2  # noqa: E402

ASKED = json.loads(sys.argv[1])
GIVEN_UP = 40
"""Seconds after which a load is told as it is."""


def main():
    """Load, wait, tell."""
    settings = Gtk.Settings.get_default()
    settings.set_property("gtk-enable-animations", not ASKED.get("calm"))
    window = Gtk.Window()
    window.set_decorated(False)
    window.set_default_size(ASKED["width"], ASKED["height"])
    _reach_nobody_else(ASKED["url"])
    view = _view()
    window.add(view)
    window.show_all()
    view.connect("load-changed", _changed)
    view.load_uri(ASKED["url"])
    GLib.timeout_add_seconds(GIVEN_UP, _tell, view)
    Gtk.main()


def _reach_nobody_else(url):
    """All but the page's own server is asked of that as of a proxy, which hands nothing on."""
    address = urlsplit(url)
    if not address.netloc:
        return
    shut = WebKit2.NetworkProxySettings.new(f"http://{address.netloc}", [address.netloc])
    manager = WebKit2.WebContext.get_default().get_website_data_manager()
    manager.set_network_proxy_settings(WebKit2.NetworkProxyMode.CUSTOM, shut)


def _view():
    policies = WebKit2.AutoplayPolicy
    policy = policies.DENY if ASKED.get("mute") else policies.ALLOW
    view = WebKit2.WebView(website_policies=WebKit2.WebsitePolicies(autoplay=policy))
    view.get_settings().set_enable_write_console_messages_to_stdout(False)
    return view


def _changed(view, event):
    if event == WebKit2.LoadEvent.FINISHED:
        GLib.timeout_add(int(ASKED["patience"] * 1000), _tell, view)


def _tell(view):
    view.evaluate_javascript(
        f"JSON.stringify({ASKED['script']})", -1, None, None, None, _told, None
    )
    return False


def _told(view, result, _):
    try:
        value = view.evaluate_javascript_finish(result).to_string()
    except GLib.Error as error:
        value = json.dumps({"error": error.message})
    print(value, flush=True)
    if not ASKED.get("picture"):
        Gtk.main_quit()
        return
    region = WebKit2.SnapshotRegion.VISIBLE
    view.get_snapshot(region, WebKit2.SnapshotOptions.NONE, None, _drawn, None)


def _drawn(view, result, _):
    view.get_snapshot_finish(result).write_to_png(ASKED["picture"])
    Gtk.main_quit()


if __name__ == "__main__":
    main()
