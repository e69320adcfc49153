"""`python -m demo.scanner [--port 8010] [--sheets 6] [--jam-after 3] [--refill 20]`."""

import argparse
import contextlib

from demo.scanner.device import Device
from demo.scanner.paper import Flaws
from demo.scanner.server import make_server


def main() -> None:
    parser = argparse.ArgumentParser(prog="demo.scanner", description="A scanner to try things on.")
    parser.add_argument("--port", type=int, default=8010)
    parser.add_argument("--sheets", type=int, default=6, help="in the feeder; 0 for none")
    parser.add_argument("--jam-after", type=int, help="that many sheets, once")
    parser.add_argument("--refill", type=float, help="seconds until an empty feeder is filled")
    parser.add_argument("--page-seconds", type=float, default=2.0)
    for flaw in ("skew", "noise", "shade", "dust"):
        parser.add_argument(f"--{flaw}", type=float, default=getattr(Flaws(), flaw), help="0 to 1")
    options = parser.parse_args()
    flaws = Flaws(skew=options.skew, noise=options.noise, shade=options.shade, dust=options.dust)
    device = Device(
        sheets=options.sheets, jam_after=options.jam_after, refill_s=options.refill, flaws=flaws
    )
    server = make_server(device, options.port, page_s=options.page_seconds)
    print(f"Stand-in scanner: http://127.0.0.1:{options.port}/eSCL  (Ctrl-C stops it)", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        server.serve_forever()


if __name__ == "__main__":
    main()
