"""Materials as files: MaterialX 1.39 with its images beside it in a zip."""
