/* Preloaded into the tool: lets the n-th call of one function fail, as a full disk or a machine without memory would.
 * RIGPULSE_FAIL=FUNCTION:N[:ever]; with 0 none fails. At the end the number of calls goes to the file RIGPULSE_CALLS.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <stdarg.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

enum { OPEN, WRITE, FSYNC, RENAME, MALLOC, FUNCTIONS };

static const char *const names[FUNCTIONS] = {"open", "write", "fsync", "rename", "malloc"};
static int which = FUNCTIONS;
static long nth;
static int ever;
static atomic_long calls;
static char report[400];

__attribute__((constructor)) static void begin(void)
{
    const char *asked = getenv("RIGPULSE_FAIL"), *to = getenv("RIGPULSE_CALLS");
    int chosen = FUNCTIONS;
    for (int i = 0; asked && i < FUNCTIONS; i++) {
        const size_t length = strlen(names[i]);
        if (strncmp(asked, names[i], length) == 0 && asked[length] == ':') {
            nth = atol(asked + length + 1);
            ever = strstr(asked + length + 1, ":ever") != NULL;
            chosen = i;
        }
    }
    snprintf(report, sizeof report, "%s", to ? to : "");
    unsetenv("LD_PRELOAD"); /* programs that it calls are left alone */
    unsetenv("RIGPULSE_FAIL");
    which = chosen;
}

__attribute__((destructor)) static void end(void)
{
    which = FUNCTIONS;
    FILE *to = *report ? fopen(report, "w") : NULL;
    if (to) {
        fprintf(to, "%ld\n", atomic_load(&calls));
        fclose(to);
    }
}

static int fails(int function)
{
    if (function != which) {
        return 0;
    }
    const long call = atomic_fetch_add(&calls, 1) + 1;
    return nth > 0 && (ever ? call >= nth : call == nth);
}

#define REAL(name, type) ((type)dlsym(RTLD_NEXT, name))

static int open_it(const char *symbol, const char *path, int flags, mode_t mode)
{
    if (fails(OPEN)) {
        errno = EMFILE;
        return -1;
    }
    return REAL(symbol, int (*)(const char *, int, ...))(path, flags, mode);
}

#define OPEN_AS(name)                             \
    int name(const char *path, int flags, ...)    \
    {                                             \
        va_list more;                             \
        va_start(more, flags);                    \
        const mode_t mode = va_arg(more, mode_t); \
        va_end(more);                             \
        return open_it(#name, path, flags, mode); \
    }
OPEN_AS(open)
OPEN_AS(open64)

ssize_t write(int file, const void *bytes, size_t length)
{
    struct stat is; /* what wakes a thread of GLib's cannot fail */
    if (fstat(file, &is) == 0 && S_ISREG(is.st_mode) && fails(WRITE)) {
        errno = ENOSPC;
        return -1;
    }
    return REAL("write", ssize_t(*)(int, const void *, size_t))(file, bytes, length);
}

int fsync(int file)
{
    if (fails(FSYNC)) {
        errno = EIO;
        return -1;
    }
    return REAL("fsync", int (*)(int))(file);
}

int rename(const char *from, const char *to)
{
    if (fails(RENAME)) {
        errno = ENOSPC;
        return -1;
    }
    return REAL("rename", int (*)(const char *, const char *))(from, to);
}

extern void *__libc_malloc(size_t size);
extern void *__libc_calloc(size_t count, size_t size);

void *malloc(size_t size)
{
    return fails(MALLOC) ? (errno = ENOMEM, NULL) : __libc_malloc(size);
}

void *calloc(size_t count, size_t size)
{
    return fails(MALLOC) ? (errno = ENOMEM, NULL) : __libc_calloc(count, size);
}
