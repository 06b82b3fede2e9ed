"""What can be wrong with a file that somebody brings."""


class AssetError(ValueError):
    """The file cannot be used. The message names the file, the problem and where it is."""

    def __init__(self, file: str, problem: str) -> None:
        super().__init__(f"{file}: {problem}")
        self.file, self.problem = file, problem
