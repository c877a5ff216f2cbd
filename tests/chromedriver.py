"""Chromium with its driver, as tests use it: pointers, keys, several tabs."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from typing import Any

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from urllib3.exceptions import HTTPError

from brightcanvas.browsers.chromium import PARTING, STARTING
from brightcanvas.browsers.window import APART, MOST_SECONDS, kill_all
from brightcanvas.values.errors import MachineError


def started(binary: str, driver_path: str, switches: Sequence[str], patience: float) -> Any:
    """A browser and its driver, which is given up when it doesn't answer for so many seconds."""
    options = webdriver.ChromeOptions()
    options.binary_location = binary
    for switch in switches:
        options.add_argument(switch)
    options.timeouts = {"pageLoad": round(MOST_SECONDS * 1000)}
    driver = _first_answer(lambda: Service(driver_path, popen_kw=APART), options)
    driver.command_executor.client_config.timeout = patience
    return driver


def _first_answer(service_of: Callable[[], Any], options: Any) -> Any:
    """A driver whose browser has started: on a crowded machine one may hang for good."""
    for seconds in STARTING:
        service, is_late = service_of(), threading.Event()
        watch = threading.Timer(seconds, _give_up, (service, is_late))
        watch.start()
        try:
            return webdriver.Chrome(options=options, service=service)
        except BaseException as error:
            _kill(service)
            if not (is_late.is_set() and isinstance(error, Exception)):
                raise
        finally:
            watch.cancel()
    raise MachineError(
        f"Chromium didn't start, tried {len(STARTING)} times within {sum(STARTING):.0f} s: this"
        " machine is too busy; try it again"
    )


def _give_up(service: Any, is_late: threading.Event) -> None:
    is_late.set()
    _kill(service)


def _kill(service: Any) -> None:
    if getattr(service, "process", None):
        kill_all(service.process)


def end(driver: Any) -> None:
    """End a browser and its driver, also where they don't answer any more."""
    driver.command_executor.client_config.timeout = PARTING
    try:
        driver.quit()
    except (OSError, HTTPError):
        killed(driver)


def killed(driver: Any) -> None:
    """End a browser and its driver at once."""
    kill_all(driver.service.process)
