"""The function of a kernel that is called, in LLVM's language: it hands packed arguments on as numba wants them."""

from __future__ import annotations

import numpy as np

from nimble_quake.kernels.abi import ROW, axes_of, parts_of

OUTER = "packed."
WORDS = {"d": "double", "f": "float", "q": "i64", "Q": "i64", "i": "i32", "I": "i32", "h": "i16", "H": "i16"}
"""What LLVM calls a number that is handed over; others are i8."""


def unpacking(inner: str, types: str) -> str:
    """Return the function that hands what is packed for a row of types to the kernel `inner`."""
    lines, handed, rows, at = [], ["ptr %result", "ptr %error"], ["%first", "%last"], 8

    def unpacked(word: str) -> str:
        nonlocal at
        name = f"%v{at}"
        lines.append(f"  {name}p = getelementptr i8, ptr %packed, i64 {at}\n  {name} = load {word}, ptr {name}p")
        at += 8
        return f"{word} {name}"

    def hand(types: str) -> None:
        for part in parts_of(types):
            if part[0] == "(":
                hand(part[1:-1])
            elif part == ROW:
                handed.append(f"i64 {rows.pop(0)}")
            elif len(part) == 1:
                if part != "n":
                    handed.append(unpacked(WORDS.get(part, "i8")))
            else:
                axes = axes_of(part)
                data, *numbers = unpacked("ptr"), *(unpacked("i64") for _ in range(2 * axes))
                size = numbers[0]
                for n in range(1, axes):
                    lines.append(f"  %n{at}.{n} = mul {size}, {numbers[n].removeprefix('i64 ')}")
                    size = f"i64 %n{at}.{n}"
                count = f"i64 {np.dtype(part[0]).itemsize}"
                handed.extend(("ptr null", "ptr null", size, count, data, *numbers))

    hand(types)
    words = ", ".join(word.split()[0] for word in handed)
    body = "\n".join(lines)
    return f"""
declare i32 @"{inner}"({words})
define i32 @"{OUTER}{inner}"(ptr %packed, i64 %first, i64 %last) {{
  %error = alloca ptr
  %result = load ptr, ptr %packed
{body}
  %status = call i32 @"{inner}"({", ".join(handed)})
  ret i32 %status
}}
"""
