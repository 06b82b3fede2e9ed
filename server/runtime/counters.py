"""What the web process counts of its own work, for whoever watches it (Prometheus text format)."""

from prometheus_client import Counter

edits_committed = Counter("lantern_edits_committed", "Edits, undos and redos stored")
messages_refused = Counter("lantern_messages_refused", "Messages of browsers that were refused")
pictures_sent = Counter("lantern_pictures_sent", "Pictures sent to browsers")
picture_bytes_sent = Counter("lantern_picture_bytes_sent", "Bytes of pictures sent to browsers")
hosts_ended = Counter("lantern_hosts_ended", "Render hosts that ended without being asked to")
