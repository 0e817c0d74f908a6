"""Webhooks: other programs are notified of what happens here, at addresses that an administrator gave."""
