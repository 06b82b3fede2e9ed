"""Work that must not hold up the picture somebody is handling: threads of lower priority.

A thread may lower its priority and, without privileges, never raise it again: such work gets a thread of its own.
Threads that a library starts from it inherit the priority.
"""

import os
import threading

HOST = 2
"""Steps of niceness down for render hosts: what the web side and the database do for an edit is little, and comes
first, or one project's picture would hold up the edits of all others."""
BEHIND = 5
"""Steps of niceness down for what somebody waits for, though not with a hand on the picture. Each takes a fifth off the
time that a thread gets beside others."""
LOWEST = 19


def lower_priority(steps: int = BEHIND) -> None:
    """Lower the priority of the calling thread."""
    thread = threading.get_native_id()
    os.setpriority(os.PRIO_PROCESS, thread, min(os.getpriority(os.PRIO_PROCESS, thread) + steps, LOWEST))
