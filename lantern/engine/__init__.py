"""The façade: open, edit, run passes, resolve a picture; swatches."""
