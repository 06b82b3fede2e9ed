"""Readers of formats, one a file or a folder: each makes an `ImportedAsset` of a `Source`."""
