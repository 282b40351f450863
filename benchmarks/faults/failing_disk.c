/* Lets calls of a program to the file system fail, for benchmarks/faults/watched.py.
 *
 * SHIM_ROOT: only paths that begin with it; SHIM_EVERY: one call in so many fails; SHIM_SEED: which ones;
 * SHIM_LOG: gets a letter for each failure. The error is one of: no space, input/output error, no permission,
 * read-only, quota, no such file.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

static const int ERRORS[] = {ENOSPC, EIO, EACCES, EROFS, EDQUOT, ENOENT};
static _Atomic unsigned int calls = 0;

static int fails(const char *path) {
    const char *root = getenv("SHIM_ROOT"), *every = getenv("SHIM_EVERY"), *seed = getenv("SHIM_SEED");
    if (!root || !every || !path || strncmp(path, root, strlen(root))) return 0;
    unsigned int chance = (++calls + atoi(seed ? seed : "0") * 7919u) * 2654435761u;
    chance ^= chance >> 15;
    chance *= 2246822519u;
    chance ^= chance >> 13;
    if (chance % atoi(every)) return 0;
    int log = syscall(SYS_openat, AT_FDCWD, getenv("SHIM_LOG"), O_WRONLY | O_APPEND | O_CREAT, 0600);
    if (log >= 0) {
        syscall(SYS_write, log, "x", 1);
        syscall(SYS_close, log);
    }
    errno = ERRORS[(chance >> 8) % (sizeof ERRORS / sizeof *ERRORS)];
    return 1;
}

static int fails_at(int handle) {
    char link[64], path[4096];
    int before = errno;
    snprintf(link, sizeof link, "/proc/self/fd/%d", handle);
    ssize_t size = readlink(link, path, sizeof path - 1);
    errno = before;
    if (size < 0) return 0;
    path[size] = 0;
    return fails(path);
}

#define NEXT(result, name, ...)                               \
    static result (*next)(__VA_ARGS__) = NULL;                \
    if (!next) next = (result(*)(__VA_ARGS__))dlsym(RTLD_NEXT, #name)

#define OPEN(name)                                                        \
    int name(const char *path, int flags, ...) {                          \
        NEXT(int, name, const char *, int, ...);                          \
        va_list rest;                                                     \
        va_start(rest, flags);                                            \
        int mode = flags & (O_CREAT | O_TMPFILE) ? va_arg(rest, int) : 0; \
        va_end(rest);                                                     \
        return fails(path) ? -1 : next(path, flags, mode);                \
    }
OPEN(open)
OPEN(open64)

#define OPEN_AT(name)                                                     \
    int name(int folder, const char *path, int flags, ...) {              \
        NEXT(int, name, int, const char *, int, ...);                     \
        va_list rest;                                                     \
        va_start(rest, flags);                                            \
        int mode = flags & (O_CREAT | O_TMPFILE) ? va_arg(rest, int) : 0; \
        va_end(rest);                                                     \
        return fails(path) ? -1 : next(folder, path, flags, mode);        \
    }
OPEN_AT(openat)
OPEN_AT(openat64)

#define ONE_PATH(name)                         \
    int name(const char *path) {               \
        NEXT(int, name, const char *);         \
        return fails(path) ? -1 : next(path);  \
    }
ONE_PATH(unlink)
ONE_PATH(rmdir)

#define TWO_PATHS(name)                                    \
    int name(const char *from, const char *to) {           \
        NEXT(int, name, const char *, const char *);       \
        return fails(from) || fails(to) ? -1 : next(from, to); \
    }
TWO_PATHS(rename)
TWO_PATHS(link)

int mkdir(const char *path, mode_t mode) {
    NEXT(int, mkdir, const char *, mode_t);
    return fails(path) ? -1 : next(path, mode);
}

int linkat(int a, const char *from, int b, const char *to, int flags) {
    NEXT(int, linkat, int, const char *, int, const char *, int);
    return fails(to) ? -1 : next(a, from, b, to, flags);
}

int renameat2(int a, const char *from, int b, const char *to, unsigned int flags) {
    NEXT(int, renameat2, int, const char *, int, const char *, unsigned int);
    return fails(to) ? -1 : next(a, from, b, to, flags);
}

ssize_t write(int handle, const void *data, size_t size) {
    NEXT(ssize_t, write, int, const void *, size_t);
    return fails_at(handle) ? -1 : next(handle, data, size);
}

#define PWRITE(name, offset_type)                                                 \
    ssize_t name(int handle, const void *data, size_t size, offset_type offset) { \
        NEXT(ssize_t, name, int, const void *, size_t, offset_type);              \
        return fails_at(handle) ? -1 : next(handle, data, size, offset);          \
    }
PWRITE(pwrite, off_t)
PWRITE(pwrite64, off64_t)

#define ONE_HANDLE(name)                           \
    int name(int handle) {                         \
        NEXT(int, name, int);                      \
        return fails_at(handle) ? -1 : next(handle); \
    }
ONE_HANDLE(fsync)
ONE_HANDLE(fdatasync)
