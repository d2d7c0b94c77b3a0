"""Waiting for what is to come, for tests in Python."""
import time


def until(ask, patience):
    """What ask() answers first that is not nothing; None where that took longer than `patience` seconds."""
    end = time.monotonic() + patience
    while time.monotonic() < end:
        found = ask()
        if found:
            return found
        time.sleep(0.1)
    return None
