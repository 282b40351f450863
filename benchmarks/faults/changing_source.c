/* Changes a file while a program reads it, for benchmarks/faults/changing_sources.py.
 *
 * A moment is an open of the file, or a copy of a piece of any file. SHIM_PATH: the file; SHIM_AT: at which
 * moment it is changed, from 1; SHIM_FATE: gone, short, other or swapped;
 * SHIM_OTHER: the file whose bytes take its place; SHIM_LOG: gets a line for each moment.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <fcntl.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/sendfile.h>
#include <sys/stat.h>
#include <unistd.h>

static int opens = 0, busy = 0;

static int real_open(const char *path, int flags, int mode) {
    static int (*open_at)(int, const char *, int, ...) = NULL;
    if (!open_at) open_at = dlsym(RTLD_NEXT, "openat");
    return open_at(AT_FDCWD, path, flags, mode);
}

static void overwrite(const char *path, const char *other) {
    char buffer[65536];
    ssize_t size;
    int from = real_open(other, O_RDONLY, 0), to = real_open(path, O_WRONLY | O_TRUNC, 0);
    while ((size = read(from, buffer, sizeof buffer)) > 0)
        if (write(to, buffer, size) != size) break;
    close(from);
    close(to);
}

static void look(const char *path) {
    const char *target = getenv("SHIM_PATH"), *fate = getenv("SHIM_FATE"), *other = getenv("SHIM_OTHER");
    if (busy || !target || !path || strcmp(path, target)) return;
    busy = 1;
    int log = real_open(getenv("SHIM_LOG"), O_WRONLY | O_APPEND | O_CREAT, 0600);
    if (write(log, "open\n", 5) != 5) abort();
    close(log);
    if (++opens == atoi(getenv("SHIM_AT"))) {
        char partial[4096];
        snprintf(partial, sizeof partial, "%s.new", target);
        if (!strcmp(fate, "gone")) unlink(target);
        if (!strcmp(fate, "short") && truncate(target, 60)) abort();
        if (!strcmp(fate, "other")) overwrite(target, other);
        if (!strcmp(fate, "swapped")) {
            close(real_open(partial, O_WRONLY | O_CREAT, 0600));
            overwrite(partial, other);
            rename(partial, target);
        }
    }
    busy = 0;
}

#define OPEN(name)                                                        \
    int name(const char *path, int flags, ...) {                          \
        va_list rest;                                                     \
        va_start(rest, flags);                                            \
        int mode = flags & (O_CREAT | O_TMPFILE) ? va_arg(rest, int) : 0; \
        va_end(rest);                                                     \
        int handle = real_open(path, flags, mode);                        \
        look(path);                                                       \
        return handle;                                                    \
    }
OPEN(open)
OPEN(open64)

#define OPEN_AT(name)                                                     \
    int name(int folder, const char *path, int flags, ...) {              \
        static int (*next)(int, const char *, int, ...) = NULL;           \
        if (!next) next = dlsym(RTLD_NEXT, #name);                        \
        va_list rest;                                                     \
        va_start(rest, flags);                                            \
        int mode = flags & (O_CREAT | O_TMPFILE) ? va_arg(rest, int) : 0; \
        va_end(rest);                                                     \
        int handle = next(folder, path, flags, mode);                     \
        look(path);                                                       \
        return handle;                                                    \
    }
OPEN_AT(openat)
OPEN_AT(openat64)

#define FILE_OPEN(name)                                                \
    FILE *name(const char *path, const char *mode) {                   \
        static FILE *(*next)(const char *, const char *) = NULL;       \
        if (!next) next = dlsym(RTLD_NEXT, #name);                     \
        FILE *file = next(path, mode);                                 \
        look(path);                                                    \
        return file;                                                   \
    }
FILE_OPEN(fopen)
FILE_OPEN(fopen64)

#define SEND_FILE(name)                                                           \
    ssize_t name(int to, int from, off_t *offset, size_t count) {                 \
        static ssize_t (*next)(int, int, off_t *, size_t) = NULL;                 \
        if (!next) next = dlsym(RTLD_NEXT, #name);                                \
        look(getenv("SHIM_PATH"));                                                \
        return next(to, from, offset, count);                                     \
    }
SEND_FILE(sendfile)
SEND_FILE(sendfile64)
