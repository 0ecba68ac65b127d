"""Exit with one clear line where a port is taken."""

import socket
import sys

port = int(sys.argv[1])
with socket.socket() as probe:
    probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        probe.bind(("127.0.0.1", port))
    except OSError:
        sys.exit(f"apt-mallet: port {port} is taken: stop what uses it, or run `make demo PORT={port + 1}`.")
