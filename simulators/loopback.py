"""What the stand-ins share: a server on loopback, and running it until it is interrupted."""

import contextlib
import socketserver
import sys


class Loopback(socketserver.ThreadingTCPServer):
    """Listens on loopback only; port 0 takes a free one."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(
        self, talk: type[socketserver.BaseRequestHandler], port: int = 0
    ) -> None:
        super().__init__(("127.0.0.1", port), talk)

    @property
    def port(self) -> int:
        """The port it listens on."""
        return int(self.server_address[1])


def run(serving: Loopback) -> None:
    """Serves, having printed the port, until it is interrupted."""
    with serving as server:
        print(server.port, flush=True)
        with contextlib.suppress(KeyboardInterrupt):
            server.serve_forever()


def port_asked() -> int:
    """The port of the command line; 0 where none is named."""
    if len(sys.argv) > 1:
        return int(sys.argv[1])
    return 0
