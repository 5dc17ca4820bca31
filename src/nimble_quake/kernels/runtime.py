"""What kernels ask of a runtime, as numba calls it, in LLVM's language.

Scratch arrays: a header of 64 bytes (references, destructor, what it is told, the data's place, the size), then the
data, aligned; freed when nothing refers to it any more. Lists: the same header, their data apart, so that it can grow.
Reshaping: the strides of a whole array in another shape of the same size; 0 for an array with gaps.
"""

from __future__ import annotations

import re

RUNTIME = """
declare ptr @malloc(i64)
declare ptr @realloc(ptr, i64)
declare void @free(ptr)

define ptr @NRT_MemInfo_alloc_aligned(i64 %size, i32 %align) {
  %step = zext i32 %align to i64
  %more = add i64 %size, %step
  %room = add i64 %more, 64
  %owner = call ptr @malloc(i64 %room)
  %none = icmp eq ptr %owner, null
  br i1 %none, label %failed, label %given
given:
  store i64 1, ptr %owner
  %dtor = getelementptr i8, ptr %owner, i64 8
  store ptr null, ptr %dtor
  %info = getelementptr i8, ptr %owner, i64 16
  store ptr null, ptr %info
  %start = ptrtoint ptr %owner to i64
  %behind = add i64 %start, 64
  %top = add i64 %behind, %step
  %last = sub i64 %top, 1
  %mask = sub i64 0, %step
  %place = and i64 %last, %mask
  %data = inttoptr i64 %place to ptr
  %held = getelementptr i8, ptr %owner, i64 24
  store ptr %data, ptr %held
  %count = getelementptr i8, ptr %owner, i64 32
  store i64 %size, ptr %count
  ret ptr %owner
failed:
  ret ptr null
}

define ptr @NRT_MemInfo_alloc(i64 %size) {
  %owner = call ptr @NRT_MemInfo_alloc_aligned(i64 %size, i32 16)
  ret ptr %owner
}

define ptr @NRT_Allocate(i64 %size) {
  %data = call ptr @malloc(i64 %size)
  ret ptr %data
}

define void @NRT_Free(ptr %data) {
  call void @free(ptr %data)
  ret void
}

define void @NRT_MemInfo_call_dtor(ptr %owner) {
  %dtor_at = getelementptr i8, ptr %owner, i64 8
  %dtor = load ptr, ptr %dtor_at
  %plain = icmp eq ptr %dtor, null
  br i1 %plain, label %gone, label %held
held:
  %info_at = getelementptr i8, ptr %owner, i64 16
  %info = load ptr, ptr %info_at
  %data_at = getelementptr i8, ptr %owner, i64 24
  %data = load ptr, ptr %data_at
  %size_at = getelementptr i8, ptr %owner, i64 32
  %size = load i64, ptr %size_at
  call void %dtor(ptr %data, i64 %size, ptr %info)
  br label %gone
gone:
  call void @free(ptr %owner)
  ret void
}

define void @varsize_dtor(ptr %data, i64 %size, ptr %parts) {
  %none = icmp eq ptr %parts, null
  br i1 %none, label %gone, label %held
held:
  call void %parts(ptr %data)
  br label %gone
gone:
  call void @free(ptr %data)
  ret void
}

define ptr @NRT_MemInfo_new_varsize_dtor(i64 %size, ptr %parts) {
  %owner = call ptr @malloc(i64 64)
  %data = call ptr @malloc(i64 %size)
  store i64 1, ptr %owner
  %dtor = getelementptr i8, ptr %owner, i64 8
  store ptr @varsize_dtor, ptr %dtor
  %info = getelementptr i8, ptr %owner, i64 16
  store ptr %parts, ptr %info
  %held = getelementptr i8, ptr %owner, i64 24
  store ptr %data, ptr %held
  %count = getelementptr i8, ptr %owner, i64 32
  store i64 %size, ptr %count
  ret ptr %owner
}

define ptr @NRT_MemInfo_varsize_realloc(ptr %owner, i64 %size) {
  %held = getelementptr i8, ptr %owner, i64 24
  %before = load ptr, ptr %held
  %data = call ptr @realloc(ptr %before, i64 %size)
  store ptr %data, ptr %held
  %count = getelementptr i8, ptr %owner, i64 32
  store i64 %size, ptr %count
  ret ptr %data
}

define i32 @numba_attempt_nocopy_reshape(i64 %axes, ptr %sizes, ptr %strides, i64 %new_axes, ptr %new_sizes,
                                         ptr %new_strides, i64 %item, i32 %fortran) {
entry:
  %columns = icmp ne i32 %fortran, 0
  br i1 %columns, label %no, label %old
old:
  %k = phi i64 [%axes, %entry], [%k1, %checked]
  %run = phi i64 [%item, %entry], [%run1, %checked]
  %more = icmp sgt i64 %k, 0
  br i1 %more, label %axis, label %new
axis:
  %k1 = sub i64 %k, 1
  %size_at = getelementptr i64, ptr %sizes, i64 %k1
  %size = load i64, ptr %size_at
  %stride_at = getelementptr i64, ptr %strides, i64 %k1
  %stride = load i64, ptr %stride_at
  %single = icmp eq i64 %size, 1
  %empty = icmp eq i64 %run, 0
  %dense = icmp eq i64 %stride, %run
  %either = or i1 %single, %dense
  %fine = or i1 %either, %empty
  %run1 = mul i64 %run, %size
  br i1 %fine, label %checked, label %no
checked:
  br label %old
new:
  %j = phi i64 [%new_axes, %old], [%j1, %put]
  %step = phi i64 [%item, %old], [%step1, %put]
  %left = icmp sgt i64 %j, 0
  br i1 %left, label %put, label %end
put:
  %j1 = sub i64 %j, 1
  %to = getelementptr i64, ptr %new_strides, i64 %j1
  store i64 %step, ptr %to
  %new_at = getelementptr i64, ptr %new_sizes, i64 %j1
  %new_size = load i64, ptr %new_at
  %step1 = mul i64 %step, %new_size
  br label %new
end:
  %whole = icmp eq i64 %step, %run
  %answer = zext i1 %whole to i32
  ret i32 %answer
no:
  ret i32 0
}
"""

PROVIDED = frozenset(re.findall(r"^define \w+ @(\w+)", RUNTIME, re.MULTILINE))
"""The functions it has."""
