"""Reports: what was found, put together for somebody who was not there, published as it stood, and shared by a link."""
