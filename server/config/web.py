"""The web server's process: uvicorn around the application, from the command line of the launcher."""

from __future__ import annotations

import argparse
import os
from pathlib import Path
from typing import Any

import uvicorn

GRACE_S = 5


def main() -> None:
    """Serve until stopped."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--host", required=True)
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--workers", type=int, default=1)
    parser.add_argument("--socket", type=int, help="the number of an open socket that listens there already")
    parser.add_argument("--certificates", type=Path, help="the folder of key.pem and certificate.pem")
    options = parser.parse_args()
    safe: dict[str, Any] = {}
    if options.certificates:
        folder = options.certificates
        safe = {"ssl_keyfile": str(folder / "key.pem"), "ssl_certfile": str(folder / "certificate.pem")}
    proxies = os.environ.get("COOMBE_TRUSTED_PROXIES", "")
    uvicorn.run(
        "config.asgi:application",
        host=options.host,
        port=options.port,
        fd=options.socket,
        workers=options.workers,
        http="config.protocol:TimedProtocol",
        proxy_headers=bool(proxies),  # whoever connects says where they come from only where they are named
        forwarded_allow_ips=proxies or None,
        access_log=False,
        server_header=False,
        log_config=None,  # lines are written as Django's are
        timeout_graceful_shutdown=GRACE_S,
        **safe,
    )


if __name__ == "__main__":
    main()
