"""Making machine code with Numba."""

import os
import types
from typing import Any

os.environ.setdefault("NUMBA_DISABLE_INTEL_SVML", "1")  # it would call functions that other processes haven't loaded

import llvmlite.binding as llvm
import numba

from .load import ENTRY_NAME, known_here, target_machine
from .marks import HOW

JIT: Any = numba.njit
CONFIG: Any = numba.config
OPTIONS = {"nogil": True, "error_model": "numpy", "_nrt": False}
"""`_nrt` off (a private switch; a test watches over it): nothing here makes arrays, so nothing need count references,
which would cost more than the arithmetic."""
if CONFIG.BOUNDSCHECK:
    del OPTIONS["_nrt"]  # an index out of bounds is raised as an exception, which needs counting
OURS: dict[Any, Any] = {}
SPACES: dict[str, dict[str, Any]] = {}


def dispatcher(one: Any) -> Any:
    """A marked function as Numba's, which sees the functions that it calls as Numba's too."""
    if one not in OURS:
        function = getattr(one, "function", one)
        seen = types.FunctionType(function.__code__, space(function), function.__name__, function.__defaults__)
        seen.__qualname__, seen.__module__ = function.__qualname__, function.__module__
        inline = {"inline": "always"} if HOW[one] == "inlined" else {}
        OURS[one] = JIT(**inline, **OPTIONS)(seen)
    return OURS[one]


def space(function: Any) -> dict[str, Any]:
    """What a function's module holds, with all that is marked as Numba's."""
    if function.__module__ not in SPACES:
        SPACES[function.__module__] = found = dict(function.__globals__)
        for name, value in function.__globals__.items():
            if callable(value) and value.__hash__ is not None and value in HOW:
                found[name] = dispatcher(value)
    return SPACES[function.__module__]


def translated(kernel: Any, arguments: tuple[Any, ...]) -> tuple[str, bytes]:
    """The kind of a kernel's result for such arguments (see `calls.shaped`) and its machine code, an object file."""
    ours = dispatcher(kernel)
    wanted = tuple(map(numba.typeof, arguments))
    ours.compile(wanted)
    made = ours.overloads[wanted]
    code = ours.inspect_llvm(wanted)
    name = made.fndesc.llvm_func_name
    module = llvm.parse_assembly(code + adapter(llvm.parse_assembly(code).get_function(name)))
    only(module, ENTRY_NAME)
    for function in module.functions:
        if function.is_declaration and not function.name.startswith("llvm.") and not known_here(function.name):
            raise RuntimeError(f"the machine code of {kernel.__name__} calls {function.name}, which nobody has")
    return result_kind(made.signature.return_type), target_machine().emit_object(module)


def adapter(function: Any) -> str:
    """An entry, as LLVM's text, that reads a function's arguments off words (see `calls`)."""
    lines = [f"define i32 @{ENTRY_NAME}(ptr %words, ptr %result) {{", "%problem = alloca ptr"]
    given = ["ptr %result", "ptr %problem"]
    for number, argument in enumerate(list(function.arguments)[2:]):
        kind = str(argument.type)
        lines += [
            f"%at{number} = getelementptr i64, ptr %words, i64 {number}",
            f"%word{number} = load {kind}, ptr %at{number}",
        ]
        given.append(f"{kind} %word{number}")
    lines += [f"%status = call i32 @{function.name}({', '.join(given)})", "ret i32 %status", "}"]
    return "\n" + "\n".join(lines) + "\n"


def only(module: Any, name: str) -> None:
    """Leaves one function and what it needs: the ways in from Python go."""
    for function in module.functions:
        if not function.is_declaration and function.name != name:
            function.linkage = "internal"
    builder = llvm.create_pass_builder(target_machine(), llvm.create_pipeline_tuning_options(speed_level=0))
    passes = llvm.create_new_module_pass_manager()
    passes.add_global_dead_code_eliminate_pass()
    passes.run(module, builder)


def result_kind(kind: Any) -> str:
    """How a result is laid out, in the letters of `struct`, ``D`` for a complex number, tuples in brackets."""
    if kind == numba.types.none:
        return ""
    if isinstance(kind, numba.types.UniTuple | numba.types.Tuple):
        return f"({''.join(result_kind(one) for one in kind)})"
    for ours, letter in ((numba.float64, "d"), (numba.int64, "q"), (numba.boolean, "?"), (numba.complex128, "D")):
        if kind == ours:
            return letter
    raise TypeError(f"a kernel can't give a {kind}")
