"""Projects: the scene document, its edits, the files it needs, and importing assets."""
