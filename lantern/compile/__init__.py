"""Compiling: from the document to tables and trees, and what an edit changes of them."""
