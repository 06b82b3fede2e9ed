"""How kernel functions are compiled: once for each type of argument, and not for each constant besides.

Numba types a constant as itself. A function called with 0 here and with a variable there would be compiled twice, and
with it everything that it is inlined into. Constants find their way all the same: the compiler folds them after
inlining.
"""

from typing import Any

from numba.core import types
from numba.core.dispatcher import Dispatcher


def forget_constants() -> None:
    """Compile every function for plain types from now on. Called before any kernel is."""
    library: Any = Dispatcher  # it has no setting for this
    if getattr(library, "forgets_constants", False):
        return
    with_constants = library.get_call_template

    def get_call_template(self: Any, args: tuple[Any, ...], kws: dict[str, Any]) -> Any:
        plain = tuple(types.unliteral(argument) for argument in args)
        return with_constants(self, plain, {name: types.unliteral(value) for name, value in kws.items()})

    library.get_call_template = get_call_template
    library.forgets_constants = True
