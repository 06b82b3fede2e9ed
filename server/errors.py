"""Why an action cannot be done."""


class Refused(ValueError):
    """The request cannot be granted; the message says why and what to do."""


class Missing(LookupError):
    """There is no such thing for this person."""
