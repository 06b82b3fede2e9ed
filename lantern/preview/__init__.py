"""Preview: ways of looking that end at the first surface."""
