"""Writers of formats, one a file or a folder: each makes the bytes of a file of what stands in a scene."""
