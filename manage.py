#!/usr/bin/env python
"""The same as `lantern-admin`, from the checkout."""

from server.administration.cli import main

if __name__ == "__main__":
    main()
