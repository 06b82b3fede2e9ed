"""Takes: pictures kept as they were, with the document that made them, notes and stars; their contact sheet."""
