"""The threads that share the rows of a kernel, in LLVM's language: none of them takes Python's lock to do so.

A job, in 8 bytes each: 0 the kernel's function, 1 its packed arguments, 2 where bands of rows begin (count + 1 whole
numbers), 3 count, 4 the next band, 5 the status of those that failed, 6 how many threads help, 7 whether the one that
asked sleeps until they are done, 8...11 the semaphore it sleeps on. All but 4 and 5 are only written under the lock.

Whoever asks puts its job on the heap and wakes helpers (`pool_begin`), and works itself until all is done
(`pool_finish`), at once or later; a helper that wakes late finds no band left, or no job. Nobody touches a job after it
has told that it is done with it: its memory goes with the call.
"""

from __future__ import annotations

import platform

HEAP = 64
"""Jobs that may wait for helpers; more go without."""
SPINS = 400
"""How often the one that asked looks whether its helpers are done before it goes to sleep (some 20 microseconds)."""
X86 = platform.machine() == "x86_64"
PAUSE = "call void @llvm.x86.sse2.pause()" if X86 else ""

POOL = f"""
{"declare void @llvm.x86.sse2.pause()" if X86 else ""}
declare i32 @sem_init(ptr, i32, i32)
declare i32 @sem_wait(ptr)
declare i32 @sem_post(ptr)
declare i32 @pthread_mutex_lock(ptr)
declare i32 @pthread_mutex_unlock(ptr)

@lock = internal global [16 x i64] zeroinitializer, align 16
@asked = internal global [8 x i64] zeroinitializer, align 16
@heap = internal global [{HEAP} x ptr] zeroinitializer, align 16
@waiting = internal global i64 0

define void @pool_start() {{
  %done = call i32 @sem_init(ptr @asked, i32 0, i32 0)
  ret void
}}

define internal void @work(ptr %job) {{
  %function = load ptr, ptr %job
  %packed_at = getelementptr i64, ptr %job, i64 1
  %packed = load ptr, ptr %packed_at
  %edges_at = getelementptr i64, ptr %job, i64 2
  %edges = load ptr, ptr %edges_at
  %count_at = getelementptr i64, ptr %job, i64 3
  %count = load i64, ptr %count_at
  %next_at = getelementptr i64, ptr %job, i64 4
  %status_at = getelementptr i64, ptr %job, i64 5
  br label %take
take:
  %band = atomicrmw add ptr %next_at, i64 1 acq_rel
  %left = icmp slt i64 %band, %count
  br i1 %left, label %run, label %done
run:
  %first_at = getelementptr i64, ptr %edges, i64 %band
  %first = load i64, ptr %first_at
  %last_at = getelementptr i64, ptr %first_at, i64 1
  %last = load i64, ptr %last_at
  %status = call i32 %function(ptr %packed, i64 %first, i64 %last)
  %told = sext i32 %status to i64
  %before = atomicrmw or ptr %status_at, i64 %told acq_rel
  br label %take
done:
  ret void
}}

define void @pool_help() {{
  br label %sleep
sleep:
  %woken = call i32 @sem_wait(ptr @asked)
  %l1 = call i32 @pthread_mutex_lock(ptr @lock)
  %waiting = load i64, ptr @waiting
  %any = icmp sgt i64 %waiting, 0
  br i1 %any, label %help, label %none
none:
  %u1 = call i32 @pthread_mutex_unlock(ptr @lock)
  br label %sleep
help:
  %top = sub i64 %waiting, 1
  store i64 %top, ptr @waiting
  %job_at = getelementptr ptr, ptr @heap, i64 %top
  %job = load ptr, ptr %job_at
  %helping_at = getelementptr i64, ptr %job, i64 6
  %more = atomicrmw add ptr %helping_at, i64 1 acq_rel
  %u2 = call i32 @pthread_mutex_unlock(ptr @lock)
  call void @work(ptr %job)
  %l2 = call i32 @pthread_mutex_lock(ptr @lock)
  %sleeps_at = getelementptr i64, ptr %job, i64 7
  %sleeps = load i64, ptr %sleeps_at
  %semaphore = getelementptr i64, ptr %job, i64 8
  %helped = atomicrmw sub ptr %helping_at, i64 1 acq_rel
  %final = icmp eq i64 %helped, 1
  %asleep = icmp ne i64 %sleeps, 0
  %wake = and i1 %final, %asleep
  br i1 %wake, label %post, label %gone
post:
  %posted = call i32 @sem_post(ptr %semaphore)
  br label %gone
gone:
  %u3 = call i32 @pthread_mutex_unlock(ptr @lock)
  br label %sleep
}}

define i64 @pool_run(ptr %job, i64 %helpers) {{
  call void @pool_begin(ptr %job, i64 %helpers)
  %status = call i64 @pool_finish(ptr %job)
  ret i64 %status
}}

define void @pool_begin(ptr %job, i64 %helpers) {{
  %l1 = call i32 @pthread_mutex_lock(ptr @lock)
  %before = load i64, ptr @waiting
  %room = sub i64 {HEAP}, %before
  %fits = icmp slt i64 %helpers, %room
  %put = select i1 %fits, i64 %helpers, i64 %room
  %after = add i64 %before, %put
  store i64 %after, ptr @waiting
  br label %fill
fill:
  %n = phi i64 [0, %0], [%n1, %filled]
  %more = icmp slt i64 %n, %put
  br i1 %more, label %filled, label %full
filled:
  %slot = add i64 %before, %n
  %slot_at = getelementptr ptr, ptr @heap, i64 %slot
  store ptr %job, ptr %slot_at
  %n1 = add i64 %n, 1
  br label %fill
full:
  %u1 = call i32 @pthread_mutex_unlock(ptr @lock)
  br label %call
call:
  %k = phi i64 [0, %full], [%k1, %called]
  %calling = icmp slt i64 %k, %put
  br i1 %calling, label %called, label %begun
called:
  %posted = call i32 @sem_post(ptr @asked)
  %k1 = add i64 %k, 1
  br label %call
begun:
  ret void
}}

define i64 @pool_finish(ptr %job) {{
own:
  call void @work(ptr %job)
  %l2 = call i32 @pthread_mutex_lock(ptr @lock)
  %now = load i64, ptr @waiting
  br label %sift
sift:
  %from = phi i64 [0, %own], [%from1, %sifted]
  %to = phi i64 [0, %own], [%to1, %sifted]
  %unsifted = icmp slt i64 %from, %now
  br i1 %unsifted, label %look, label %alone
look:
  %from_at = getelementptr ptr, ptr @heap, i64 %from
  %other = load ptr, ptr %from_at
  %mine = icmp eq ptr %other, %job
  br i1 %mine, label %sifted, label %keep
keep:
  %to_at = getelementptr ptr, ptr @heap, i64 %to
  store ptr %other, ptr %to_at
  br label %sifted
sifted:
  %step = phi i64 [0, %look], [1, %keep]
  %to1 = add i64 %to, %step
  %from1 = add i64 %from, 1
  br label %sift
alone:
  store i64 %to, ptr @waiting
  %u2 = call i32 @pthread_mutex_unlock(ptr @lock)
  %helping_at = getelementptr i64, ptr %job, i64 6
  br label %spin
spin:
  %turn = phi i64 [0, %alone], [%turn1, %again]
  %helping = load atomic i64, ptr %helping_at acquire, align 8
  %helped = icmp eq i64 %helping, 0
  br i1 %helped, label %done, label %again
again:
  {PAUSE}
  %turn1 = add i64 %turn, 1
  %patient = icmp slt i64 %turn1, {SPINS}
  br i1 %patient, label %spin, label %tired
tired:
  %l3 = call i32 @pthread_mutex_lock(ptr @lock)
  %still = load atomic i64, ptr %helping_at acquire, align 8
  %over = icmp eq i64 %still, 0
  br i1 %over, label %late, label %settle
late:
  %u3 = call i32 @pthread_mutex_unlock(ptr @lock)
  br label %done
settle:
  %semaphore = getelementptr i64, ptr %job, i64 8
  %made = call i32 @sem_init(ptr %semaphore, i32 0, i32 0)
  %sleeps_at = getelementptr i64, ptr %job, i64 7
  store i64 1, ptr %sleeps_at
  %u4 = call i32 @pthread_mutex_unlock(ptr @lock)
  br label %sleep
sleep:
  %woken = call i32 @sem_wait(ptr %semaphore)
  %interrupted = icmp ne i32 %woken, 0
  br i1 %interrupted, label %sleep, label %done
done:
  %status_at = getelementptr i64, ptr %job, i64 5
  %status = load atomic i64, ptr %status_at acquire, align 8
  ret i64 %status
}}
"""
