"""Everything of an installation, or of one car, as an archive that another installation takes in."""
