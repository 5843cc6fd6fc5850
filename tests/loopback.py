"""A web server on loopback, for tests of what is asked of it and what is made of its answers."""

import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer


class Answering(BaseHTTPRequestHandler):
    """Answers what stands in `answers`, others with the usual page; remembers what was asked."""

    protocol_version = "HTTP/1.1"
    usual: tuple[int, dict[str, str], bytes]
    answers: dict[str, tuple[int, dict[str, str], bytes]]
    asked: list[str]

    def do_GET(self) -> None:
        type(self).asked.append(self.path)
        status, headers, body = self.answers.get(self.path, self.usual)
        self.send_response(status)
        for name, value in {"Content-Type": "text/html", "Content-Length": str(len(body)), **headers}.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        pass


class Server:
    """Answers on loopback.

    Attributes:
        answers: (status, headers, body) by path; asked: the paths that were asked for, in order.
    """

    def __init__(self, body: str = "<p>A page.</p>", media_type: str = "text/html") -> None:
        self.answers: dict[str, tuple[int, dict[str, str], bytes]] = {}
        self.asked: list[str] = []
        usual = (200, {"Content-Type": media_type}, body.encode())
        handler = type("Handler", (Answering,), {"answers": self.answers, "asked": self.asked, "usual": usual})
        self.server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
        self.port = int(self.server.server_address[1])
        self.address = f"http://127.0.0.1:{self.port}"
        threading.Thread(target=self.server.serve_forever, args=(0.05,), daemon=True).start()

    def close(self) -> None:
        self.server.shutdown()
        self.server.server_close()
