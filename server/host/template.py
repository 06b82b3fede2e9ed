"""`python -m server.host.template FD`: loads libraries and kernels once; every render host is a fork of it.

In: over the socket with the descriptor FD, one byte a host with the host's end of another socket attached. Out: over
that one, what `host` says. Called by `hosts`. A host is there within a few hundredths of a second, where loading takes
two seconds, and all hosts share the memory of what was loaded.
"""

import gc
import os
import signal
import socket
import sys
import traceback
from pathlib import Path

from lantern.compile.view import Way
from lantern.picture.display import Transform, prepare_display
from lantern.rays.embree import building_alone
from lantern.warm_up import load_kernels
from server.host.loop import serve
from server.runtime.priority import HOST, lower_priority

NAME = "lantern-host"


def _load() -> None:
    with building_alone():
        for way, display in ((Way.PROOF, "filmic"), (Way.DRAFT, "plain")):
            load_kernels(way)
            prepare_display(Transform(display))
        gc.collect()
    # Collections in a host would touch, and so copy, every page that it shares with the others.
    gc.freeze()


def main() -> None:
    """Fork until the server's end of the socket is closed."""
    control = socket.socket(fileno=int(sys.argv[1]))
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody waits for the hosts: the server sees their sockets close
    _load()
    lower_priority(HOST)
    while True:
        asked, descriptors, _, _ = socket.recv_fds(control, 1, 1)
        if not asked:
            return
        if os.fork() == 0:
            control.close()
            Path("/proc/self/comm").write_text(NAME)
            try:
                serve(socket.socket(fileno=descriptors[0]))
            except BaseException:
                traceback.print_exc()
            # Not by way of the interpreter's end, which would tear down what it shares with the template.
            os._exit(0)
        os.close(descriptors[0])


if __name__ == "__main__":
    main()
