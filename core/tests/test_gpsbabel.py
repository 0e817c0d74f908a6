"""The NMEA reader against Debian's gpsbabel, which turns the same log into GPX."""

import shutil
import subprocess
import tempfile
import xml.etree.ElementTree as ElementTree
from datetime import datetime
from pathlib import Path
from unittest import TestCase

from drives import nmea

from coombe_core.formats import read_log

GPX = "{http://www.topografix.com/GPX/1/1}"


class GpsbabelTest(TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_times_and_positions_agree(self):
        log, gpx = self.folder / "log.nmea", self.folder / "log.gpx"
        lines = nmea("clean-run").splitlines(keepends=True)
        pairs = zip(lines[1::2], lines[::2], strict=True)
        log.write_bytes(b"".join(gga + rmc for gga, rmc in pairs))  # gpsbabel wants height before speed
        program = shutil.which("gpsbabel")
        self.assertIsNotNone(program, "gpsbabel is missing; run ./coombe setup")
        command = [program, "-i", "nmea", "-f", log, "-o", "gpx,gpxver=1.1", "-F", gpx]
        subprocess.run(command, check=True, capture_output=True)
        points = ElementTree.parse(gpx).getroot().findall(f".//{GPX}trkpt")
        trace = read_log(log.read_bytes()).trace
        self.assertEqual(len(points), len(trace))
        for row in range(0, len(points), 41):
            point = points[row]
            moment = datetime.fromisoformat(point.findtext(f"{GPX}time"))
            self.assertLess(abs((moment - trace.utc_at(trace.elapsed_s[row])).total_seconds()), 0.002)
            self.assertAlmostEqual(float(point.get("lat")), trace.latitude_deg[row], 7)
            self.assertAlmostEqual(float(point.get("lon")), trace.longitude_deg[row], 7)
            self.assertAlmostEqual(float(point.findtext(f"{GPX}ele")), trace.altitude_m[row], 2)
