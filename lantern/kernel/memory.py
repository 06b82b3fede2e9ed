"""Typed reads and writes at an address, and the one description of each table's row.

Kernels get addresses, not arrays: array arguments bring reference counting into the pixel loop. A
`Table` names the slots of a row once; it gives the NumPy dtype to the host and the slot numbers to the
kernels. Addresses are uint64; an index counts elements, not bytes.

`load_*` reads memory that no kernel writes (the compiler may keep it in a register); `peek_*` reads
memory that this or another thread may have changed.
"""

from collections.abc import Mapping, Sequence
from enum import IntEnum
from typing import Any

import numpy as np
from llvmlite import ir
from numba import njit, types
from numba.extending import intrinsic

from lantern.kernel.vectors import SMALL


def _numbered(name: str, slots: dict[str, int]) -> Any:
    """Slot numbers as an enumeration, whose members compile to literal numbers."""
    make: Any = IntEnum
    return make(f"{name}_slots", slots)


CACHE_LINE = 64


class Table:
    """A row of 32-bit slots (float32 or int32), described once for the host and the kernels.

    `fields` is a sequence of (name, "f" or "i", count). `slots` names the first slot of every field for the kernels.
    """

    def __init__(self, name: str, fields: Sequence[tuple[str, str, int]]) -> None:
        self.name = name
        self._slots: dict[str, int] = {}
        numpy_fields: list[Any] = []
        slot = 0
        for field, kind, count in fields:
            self._slots[field] = slot
            scalar = {"f": np.float32, "i": np.int32}[kind]
            numpy_fields.append((field, scalar) if count == 1 else (field, scalar, (count,)))
            slot += count
        self.width = slot
        self.dtype = np.dtype(numpy_fields)
        self.slots: Any = _numbered(name, self._slots)

    def slot(self, field: str) -> int:
        """Number of the first 32-bit slot of `field` within a row."""
        return self._slots[field]

    def zeros(self, rows: int) -> np.ndarray:
        """`rows` empty rows as a structured array; at least one, so that there is always an address."""
        return np.zeros(max(rows, 1), self.dtype)


def address(array: np.ndarray) -> int:
    """Address of the first element of a C-contiguous array. The caller keeps the array alive."""
    if not array.flags.c_contiguous:
        raise ValueError("array must be C-contiguous to be read by address")
    return int(array.ctypes.data)


def aligned(shape: tuple[int, ...], dtype: Any) -> np.ndarray:
    """Zeros that begin a cache line: rows of a power of two bytes then never straddle two of them."""
    size = int(np.prod(shape)) * np.dtype(dtype).itemsize
    room = np.zeros(size + CACHE_LINE, np.uint8)
    skip = -room.ctypes.data % CACHE_LINE
    return room[skip : skip + size].view(dtype).reshape(shape)


def _reader(llvm_type: Any, numba_type: Any, invariant: bool) -> Any:
    def typer(typing_context: Any, base: Any, index: Any) -> Any:
        def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
            pointer = builder.inttoptr(args[0], llvm_type.as_pointer())
            value = builder.load(builder.gep(pointer, [args[1]]))
            if invariant:
                value.set_metadata("invariant.load", builder.module.add_metadata([]))
            return value

        return numba_type(types.uint64, types.int64), codegen

    return intrinsic(typer)


def _writer(llvm_type: Any, numba_type: Any) -> Any:
    def typer(typing_context: Any, base: Any, index: Any, value: Any) -> Any:
        def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
            pointer = builder.inttoptr(args[0], llvm_type.as_pointer())
            builder.store(args[2], builder.gep(pointer, [args[1]]))
            return context.get_dummy_value()

        return types.void(types.uint64, types.int64, numba_type), codegen

    return intrinsic(typer)


load_f32 = _reader(ir.FloatType(), types.float32, invariant=True)
load_i32 = _reader(ir.IntType(32), types.int32, invariant=True)
load_u32 = _reader(ir.IntType(32), types.uint32, invariant=True)
load_u16 = _reader(ir.IntType(16), types.uint16, invariant=True)
load_u8 = _reader(ir.IntType(8), types.uint8, invariant=True)
load_u64 = _reader(ir.IntType(64), types.uint64, invariant=True)
load_i64 = _reader(ir.IntType(64), types.int64, invariant=True)
peek_f32 = _reader(ir.FloatType(), types.float32, invariant=False)
peek_i32 = _reader(ir.IntType(32), types.int32, invariant=False)
peek_u32 = _reader(ir.IntType(32), types.uint32, invariant=False)
peek_i64 = _reader(ir.IntType(64), types.int64, invariant=False)
store_f32 = _writer(ir.FloatType(), types.float32)
store_i32 = _writer(ir.IntType(32), types.int32)
store_u32 = _writer(ir.IntType(32), types.uint32)
store_i64 = _writer(ir.IntType(64), types.int64)


@intrinsic
def load_f16(typing_context: Any, base: Any, index: Any) -> Any:
    """The half float base[index] as a float32."""

    def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        pointer = builder.inttoptr(args[0], ir.HalfType().as_pointer())
        return builder.fpext(builder.load(builder.gep(pointer, [args[1]])), ir.FloatType())

    return types.float32(types.uint64, types.int64), codegen


@intrinsic
def prefetch(typing_context: Any, base: Any, index: Any) -> Any:
    """Bring the cache line of the 32-bit slot base[index] closer, without waiting for it."""

    def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        i32 = ir.IntType(32)
        pointer = builder.inttoptr(args[0], i32.as_pointer())
        target = builder.bitcast(builder.gep(pointer, [args[1]]), ir.IntType(8).as_pointer())
        kind = ir.FunctionType(ir.VoidType(), [ir.IntType(8).as_pointer(), i32, i32, i32])
        function = builder.module.declare_intrinsic("llvm.prefetch", [ir.IntType(8).as_pointer()], kind)
        read, near, data = (ir.Constant(i32, n) for n in (0, 3, 1))
        builder.call(function, [target, read, near, data])
        return context.get_dummy_value()

    return types.void(types.uint64, types.int64), codegen


@intrinsic
def fetch_add_i32(typing_context: Any, base: Any, index: Any, amount: Any) -> Any:
    """Atomically add to the int32 at base[index] and return its former value."""

    def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        pointer = builder.inttoptr(args[0], ir.IntType(32).as_pointer())
        target = builder.gep(pointer, [args[1]])
        return builder.atomic_rmw("add", target, args[2], "seq_cst")

    return types.int32(types.uint64, types.int64, types.int32), codegen


@intrinsic
def blend_half_rgb(typing_context: Any, base: Any, a: Any, b: Any, c: Any, d: Any, weights: Any) -> Any:
    """Σ weight · texel over four texels of four half floats each, as an rgb tuple of float32.

    `a` to `d` number the texels, `weights` is a tuple of four float32. Written as vectors, because one instruction
    widens four halves, and the compiler does not find that by itself.
    """
    result = types.UniTuple(types.float32, 3)
    signature = result(types.uint64, *(types.int64,) * 4, types.UniTuple(types.float32, 4))

    def codegen(context: Any, builder: Any, _: Any, args: Any) -> Any:
        wide, narrow = ir.VectorType(ir.FloatType(), 4), ir.VectorType(ir.HalfType(), 4)
        lanes = ir.Constant(ir.VectorType(ir.IntType(32), 4), [0, 0, 0, 0])
        pointer = builder.inttoptr(args[0], narrow.as_pointer())
        total = None
        for i in range(4):
            texel = builder.load(builder.gep(pointer, [args[1 + i]]))
            texel.align = 8
            one = builder.insert_element(
                ir.Constant(wide, ir.Undefined), builder.extract_value(args[5], i), ir.Constant(ir.IntType(32), 0)
            )
            part = builder.fmul(builder.fpext(texel, wide), builder.shuffle_vector(one, one, lanes))
            total = part if total is None else builder.fadd(total, part)
        channels = [builder.extract_element(total, ir.Constant(ir.IntType(32), k)) for k in range(3)]
        return context.make_tuple(builder, result, channels)

    return signature, codegen


@njit(**SMALL)
def load_vector(base, index):
    """Three consecutive floats that no kernel writes, as a tuple."""
    return load_f32(base, index), load_f32(base, index + 1), load_f32(base, index + 2)


@njit(**SMALL)
def peek_vector(base, index):
    """Three consecutive floats that may have been written, as a tuple."""
    return peek_f32(base, index), peek_f32(base, index + 1), peek_f32(base, index + 2)


@njit(**SMALL)
def store_vector(base, index, v):
    """Write three consecutive floats."""
    store_f32(base, index, v[0])
    store_f32(base, index + 1, v[1])
    store_f32(base, index + 2, v[2])


class Addresses:
    """A row of 64-bit addresses, described once for the host and the kernels."""

    def __init__(self, name: str, names: Sequence[str]) -> None:
        self._slots = {name: index for index, name in enumerate(names)}
        self.width = len(names)
        self.slots: Any = _numbered(name, self._slots)

    def slot(self, name: str) -> int:
        """Number of the 64-bit slot called `name`."""
        return self._slots[name]

    def block(self, named: Mapping[str, "np.ndarray | int"]) -> np.ndarray:
        """uint64 row with the addresses of the named arrays, or plain handles; unnamed slots stay 0."""
        row = np.zeros(len(self._slots), np.uint64)
        for name, value in named.items():
            row[self._slots[name]] = value if isinstance(value, int) else address(value)
        return row
