"""What people changed, when, and what it was before; how it is taken back; the trash."""
