"""Loading machine code into this process, by LLVM."""

import ctypes
from typing import Any

import llvmlite.binding as llvm

ENTRY_NAME = "entry"


def target() -> tuple[str, str]:
    """The processor for which is compiled: its name and features."""
    return llvm.get_host_cpu_name(), llvm.get_host_cpu_features().flatten()


def target_machine() -> Any:
    """What turns LLVM's code to this processor's, set up as for code that is run at once."""
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    processor, features = target()
    chosen = llvm.Target.from_default_triple()
    static = "static" if chosen.name.startswith("x86") else "default"
    return chosen.create_target_machine(
        cpu=processor, features=features, opt=3, reloc=static, codemodel="jitdefault", jit=True
    )


def known_here(name: str) -> bool:
    """Whether a function that machine code calls is found in any process (the C library's are). LLVM ends the process
    where one isn't."""
    return hasattr(ctypes.CDLL(None), name)


class Loader:
    """Machine code, loaded, as long as the process runs."""

    def __init__(self) -> None:
        self._machine = target_machine()
        self._engines: list[Any] = []

    def address(self, code: bytes) -> int:
        """Loads an object file and gives the address of its entry."""
        engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), self._machine)
        engine.add_object_file(llvm.ObjectFileRef.from_data(code))
        engine.finalize_object()
        self._engines.append(engine)
        return int(engine.get_function_address(ENTRY_NAME))
