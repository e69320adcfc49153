"""Loops over pixels, compiled by numba once and loaded from then on without it.

numba takes two seconds to load what it compiled before, more than many documents take to be made
lighter; the machine code alone takes some milliseconds (llvmlite). It lies beside the bytecode of
the module that the loop stands in, or in a folder that the environment names, a file for each
processor and each kinds of arguments.
"""

import contextlib
import ctypes
import hashlib
import os
import sys
import threading
from collections.abc import Callable
from functools import cache
from pathlib import Path
from types import FunctionType
from typing import Any, Generic, ParamSpec

import numpy as np

__all__ = ["FOLDER_SETTING", "TRIED_NUMBA", "Loop", "compiled", "jit_helper"]

# The environment's name for a folder that belongs to whoever runs this.
FOLDER_SETTING = "GREEN_SATCHEL_COMPILED"

Parameters = ParamSpec("Parameters")

# Versions of numba whose way of handing arguments over was tried; it is not a public one. With any
# other, loops are called through numba's own public dispatcher, which takes longer to start.
TRIED_NUMBA = ((0, 61), (0, 68))
# How numba hands arguments over: pointers to a result and an error, then each argument. An array
# is its owner twice, how many items, bytes of one, where they lie, its sides, its strides.
_POINTER, _WHOLE, _DOUBLE, _SINGLE = (
    ctypes.c_void_p,
    ctypes.c_int64,
    ctypes.c_double,
    ctypes.c_float,
)
# What numba calls when the last reference to an array that it owns has gone: here it owns none.
_FREE = "NRT_MemInfo_call_dtor"
_freed = ctypes.CFUNCTYPE(None, _POINTER)(lambda _: None)
# Every loop writes there that it returns nothing, and never reads it.
_RESULT, _ERROR = ctypes.c_void_p(), ctypes.c_void_p()
_loading = threading.Lock()


class Loop(Generic[Parameters]):
    """A function whose machine code is made, or loaded, on its first call.

    It takes arrays that lie in one piece (C order), whole numbers, floats, and tuples of arrays or
    of float32; returns nothing, and writes into arrays it is given, as it can make none. It may
    call functions that are marked with `jit_helper`. It lets go of the interpreter.
    Raises: TypeError or ValueError for other arguments.
    """

    def __init__(self, function: Callable[Parameters, object]) -> None:
        self.function = function
        self.__doc__ = function.__doc__
        self._known: dict[tuple[object, ...], Callable[..., int]] = {}
        self._dispatcher: Callable[..., object] | None = None

    def __call__(self, *args: Parameters.args, **kwargs: Parameters.kwargs) -> None:
        assert not kwargs, "a loop's arguments go by their places"
        kinds: list[object] = []
        values: list[Any] = []
        for argument in args:
            _flatten(argument, kinds, values)
        key = tuple(kinds)
        code = self._known.get(key)
        if code is None and self._dispatcher is None:
            code = _code_for(self.function, args)
            if code is not None:
                self._known[key] = code
        if code is None:
            self._call_through_numba(args)
            return
        code(ctypes.addressof(_RESULT), ctypes.addressof(_ERROR), *values)

    def _call_through_numba(self, args: tuple[object, ...]) -> None:
        if self._dispatcher is None:
            from numba import njit

            assert isinstance(self.function, FunctionType)
            compile_ = njit(nogil=True, fastmath=True, error_model="numpy")
            self._dispatcher = compile_(_with_inner(self.function))
        self._dispatcher(*args)


class JitHelper:
    """A function that loops call; see `jit_helper`."""

    def __init__(self, function: FunctionType) -> None:
        self.function = function

    def __call__(self, *args: object) -> Any:
        return self.function(*args)


def jit_helper(function: Callable[..., object]) -> Callable[..., Any]:
    """Mark a function that compiled loops call; it is compiled together with each of them."""
    assert isinstance(function, FunctionType)
    return JitHelper(function)


def compiled(function: Callable[Parameters, object]) -> Loop[Parameters]:
    """The function as a `Loop`."""
    return Loop(function)


def _flatten(argument: object, kinds: list[object], values: list[Any]) -> None:
    """Return a key of the argument's type, and the argument as numba passes it."""
    if isinstance(argument, np.ndarray):
        if not argument.flags.c_contiguous:
            raise ValueError("a loop takes arrays that lie in one piece")
        kinds += (argument.dtype.char, argument.ndim)
        where = argument.__array_interface__["data"][0]
        values += (None, None, argument.size, argument.itemsize, where)
        values += argument.shape
        values += argument.strides
    elif isinstance(argument, tuple):
        kinds.append(len(argument))
        for item in argument:
            _flatten(item, kinds, values)
    else:
        kinds.append(_scalar_of(argument))
        values.append(argument)


def _scalar_of(argument: object) -> type[Any]:
    if isinstance(argument, np.float32):
        return _SINGLE
    if isinstance(argument, float):
        return _DOUBLE
    if isinstance(argument, int):
        return _WHOLE
    raise TypeError(f"a loop takes no {type(argument).__name__}")


def _passed_as(argument: object) -> list[type[Any]]:
    if isinstance(argument, np.ndarray):
        return [_POINTER, _POINTER, _WHOLE, _WHOLE, _POINTER, *[_WHOLE] * (2 * argument.ndim)]
    if isinstance(argument, tuple):
        return [kind for item in argument for kind in _passed_as(item)]
    return [_scalar_of(argument)]


def _code_for(
    function: Callable[..., object], args: tuple[object, ...]
) -> Callable[..., int] | None:
    """Return the function for arguments of these types, ready to be called.

    None where it has to be compiled, and numba is of a version that was not tried.
    """
    assert isinstance(function, FunctionType)
    with _loading:
        places = _places_for(function, args)
        kept = next(filter(Path.exists, places), None)
        if kept is not None:
            whole = kept.read_bytes()
        elif not _is_tried_numba():
            return None
        else:
            whole = _compile(function, args)
            _keep(places, whole)
        name, _, machine_code = whole.partition(b"\n")
        address = _load(name.decode(), machine_code)
    kinds = [kind for argument in args for kind in _passed_as(argument)]
    return ctypes.CFUNCTYPE(ctypes.c_int32, _POINTER, _POINTER, *kinds)(address)


def _is_tried_numba() -> bool:
    import numba

    major, minor = (int(number) for number in numba.__version__.split(".")[:2])
    return TRIED_NUMBA[0] <= (major, minor) <= TRIED_NUMBA[1]


def _places_for(function: FunctionType, args: tuple[object, ...]) -> list[Path]:
    """Return the folders for machine code of the same source on the same kind of processor.

    Beside the bytecode; or in a folder of `FOLDER_SETTING`, where the program belongs to another
    and nothing can be written beside it.
    """
    import llvmlite
    import llvmlite.binding as llvm

    module = Path(function.__code__.co_filename)
    digest = hashlib.sha256()
    for source in sorted(_sources(function)):
        digest.update(Path(source).read_bytes())
    machine = (
        llvmlite.__version__,
        llvm.get_host_cpu_name(),
        llvm.get_host_cpu_features().flatten(),
    )
    digest.update(repr((machine, [_type_name(argument) for argument in args])).encode())
    name = f"{module.stem}.{function.__name__}-{digest.hexdigest()[:16]}"
    folders = [module.parent / "__pycache__"]
    if folder := os.environ.get(FOLDER_SETTING):
        folders.append(Path(folder))
    return [folder / f"{name}.{sys.implementation.cache_tag}" for folder in folders]


def _type_name(argument: object) -> str:
    if isinstance(argument, np.ndarray):
        return f"{argument.dtype.str}{argument.ndim}"
    if isinstance(argument, tuple):
        return f"({','.join(map(_type_name, argument))})"
    return _scalar_of(argument).__name__


def _keep(places: list[Path], whole: bytes) -> None:
    """Store machine code for later processes in the first writable folder; else it is compiled
    again.
    """
    for kept in places:
        partial = kept.with_name(f"{kept.name}.{os.getpid()}")
        try:
            kept.parent.mkdir(exist_ok=True)
            partial.write_bytes(whole)
            partial.replace(kept)
            return
        except OSError:
            with contextlib.suppress(OSError):
                partial.unlink()


@cache
def _machine() -> Any:
    """The processor that this runs on."""
    import llvmlite.binding as llvm

    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=llvm.get_host_cpu_name(),
        features=llvm.get_host_cpu_features().flatten(),
        opt=3,
        reloc="default",
        codemodel="jitdefault",
        jit=True,
    )


@cache
def _engine() -> Any:
    """Return the engine that holds loaded machine code as long as the process lives."""
    import llvmlite.binding as llvm

    llvm.add_symbol(_FREE, ctypes.cast(_freed, _POINTER).value)
    return llvm.create_mcjit_compiler(llvm.parse_assembly(""), _machine())


def _load(name: str, machine_code: bytes) -> int:
    """The address of the function."""
    import llvmlite.binding as llvm

    engine = _engine()
    engine.add_object_file(llvm.ObjectFileRef.from_data(machine_code))
    engine.finalize_object()
    return int(engine.get_function_address(name))


def _compile(function: FunctionType, args: tuple[object, ...]) -> bytes:
    """Return the entry's name on a line by itself, and its machine code."""
    import llvmlite.binding as llvm
    from numba import njit, void

    signature = void(*map(_type_of, args))
    options: dict[str, Any] = {"no_cpython_wrapper": True, "no_cfunc_wrapper": True}
    compile_ = njit(signature, fastmath=True, error_model="numpy", **options)
    loop: Any = compile_(_with_inner(function))
    overload = loop.overloads[signature.args]
    name = overload.fndesc.llvm_func_name
    module = llvm.parse_assembly(overload.library.get_llvm_str())
    _drop_unused(module, name)
    return str(name).encode() + b"\n" + bytes(_machine().emit_object(module))


def _type_of(argument: object) -> Any:
    """Return numba's type of the argument; whether an array is writable makes no difference."""
    from numba import from_dtype, types

    if isinstance(argument, np.ndarray):
        return types.Array(from_dtype(argument.dtype), argument.ndim, "C")
    if isinstance(argument, tuple):
        of_items: Any = types.BaseTuple.from_types
        return of_items([_type_of(item) for item in argument])
    scalars = {_SINGLE: types.float32, _DOUBLE: types.float64, _WHOLE: types.int64}
    return scalars[_scalar_of(argument)]


def _called(function: FunctionType) -> dict[str, FunctionType]:
    """Return the `jit_helper` functions that a function calls, by the names it uses."""
    names = set(function.__code__.co_names)
    return {
        name: value.function
        for name, value in function.__globals__.items()
        if isinstance(value, JitHelper) and name in names
    }


def _sources(function: FunctionType) -> set[str]:
    """Return the source files of a function and of everything that it calls."""
    inner = (_sources(called) for called in _called(function).values())
    return {function.__code__.co_filename}.union(*inner)


def _with_inner(function: FunctionType) -> FunctionType:
    """Return the function with its helpers bound as numba functions."""
    from numba import njit

    known = function.__globals__ | {
        name: njit(fastmath=True, error_model="numpy")(_with_inner(called))
        for name, called in _called(function).items()
    }
    return FunctionType(function.__code__, known, function.__name__, function.__defaults__)


def _drop_unused(module: Any, name: str) -> None:
    """Drop everything but the function and its callees: numba adds reference counting of arrays.

    Raises: TypeError if the function needs more than it holds.
    """
    import llvmlite.binding as llvm

    for function in module.functions:
        if function.name != name and not function.is_declaration:
            function.linkage = "internal"
    passes = llvm.create_new_module_pass_manager()
    passes.add_global_dead_code_eliminate_pass()
    passes.run(module, llvm.create_pass_builder(_machine(), llvm.create_pipeline_tuning_options()))
    asked_for = [function.name for function in module.functions if function.is_declaration]
    others = [asked for asked in asked_for if not asked.startswith("llvm.") and asked != _FREE]
    if others:
        raise TypeError(f"a loop may not make arrays, and this needs {others}")
