"""What is done from the command line: making the library and the demo, exporting types."""
