"""Typed reads and writes at an address, and the one description of each table's row.

Kernels get addresses, not arrays: array arguments bring reference counting into the pixel loop. A
`Table` names the slots of a row once; it gives the NumPy dtype to the host and the slot numbers to the
kernels. Addresses are uint64; an index counts elements, not bytes.

`load_*` reads memory that no kernel writes (the compiler may keep it in a register); `peek_*` reads
memory that this or another thread may have changed.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic


class Table:
    """A row of 32-bit slots (float32 or int32), described once for the host and the kernels.

    `fields` is a sequence of (name, "f" or "i", count).
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
load_u8 = _reader(ir.IntType(8), types.uint8, invariant=True)
load_u64 = _reader(ir.IntType(64), types.uint64, invariant=True)
peek_f32 = _reader(ir.FloatType(), types.float32, invariant=False)
peek_i32 = _reader(ir.IntType(32), types.int32, invariant=False)
peek_u32 = _reader(ir.IntType(32), types.uint32, invariant=False)
peek_i64 = _reader(ir.IntType(64), types.int64, invariant=False)
store_f32 = _writer(ir.FloatType(), types.float32)
store_i32 = _writer(ir.IntType(32), types.int32)
store_u32 = _writer(ir.IntType(32), types.uint32)
store_i64 = _writer(ir.IntType(64), types.int64)


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


def _bit_cast(source: Any, llvm_target: Any, target: Any) -> Any:
    def typer(typing_context: Any, value: Any) -> Any:
        def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
            return builder.bitcast(args[0], llvm_target)

        return target(source), codegen

    return intrinsic(typer)


f32_as_i32 = _bit_cast(types.float32, ir.IntType(32), types.int32)
i32_as_f32 = _bit_cast(types.int32, ir.FloatType(), types.float32)


class Addresses:
    """A row of 64-bit addresses, described once for the host and the kernels."""

    def __init__(self, names: Sequence[str]) -> None:
        self._slots = {name: index for index, name in enumerate(names)}

    def slot(self, name: str) -> int:
        """Number of the 64-bit slot called `name`."""
        return self._slots[name]

    def block(self, arrays: dict[str, np.ndarray]) -> np.ndarray:
        """uint64 row with the addresses of the named arrays; unnamed slots stay 0."""
        row = np.zeros(len(self._slots), np.uint64)
        for name, array in arrays.items():
            row[self._slots[name]] = address(array)
        return row
