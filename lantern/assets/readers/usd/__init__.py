"""OpenUSD."""
