"""Django: stores, authorises, schedules and streams. No shading, no geometry."""
