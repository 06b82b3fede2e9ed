"""Ground floor of the compiled code: memory access, vectors, random numbers, fast elementary functions.

Every room with kernels (`surface`, `light`, `rays`, `film`, `transport`, `preview`) builds on this one. Importing it
points Numba's disk cache at a folder named after a hash of all kernel sources, because Numba itself does not notice a
change in an imported file.
"""

from lantern.kernel.cache import activate
from lantern.kernel.compiling import forget_constants

activate()
forget_constants()
