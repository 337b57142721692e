/* A second process that brings devices to rest when the first one dies without a word. */
#include "guardian.h"

#include "tty.h"
#include "words.h"

#include <errno.h>
#include <fcntl.h>
#include <gio/gio.h>
#include <poll.h>
#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#define ALL_IS_WELL 'w'
#define LONGEST_S   5 /* for a device that takes nothing */
#define TAKES_MS    500
#define AGAIN_US    20000 /* from one try to open a device to the next */
#define TRIES       100

/* The system closes what a dead process had open one after the other: the wire between the two may end before the
 * device is free. */
static int open_freed(const device *d)
{
    int fd = tty_open(d->path, d->speed, false, NULL);
    for (int tries = 0; fd < 0 && tries < TRIES; tries++) {
        g_usleep(AGAIN_US);
        fd = tty_open(d->path, d->speed, false, NULL);
    }
    return fd;
}

static void bring_to_rest(const device *d)
{
    const int fd = open_freed(d);
    const char *at = d->rest;
    struct pollfd out = {.fd = fd, .events = POLLOUT};
    while (fd >= 0 && *at && poll(&out, 1, TAKES_MS) > 0) {
        const ssize_t sent = write(fd, at, strlen(at));
        if (sent <= 0) {
            break;
        }
        at += sent;
    }
    if (fd >= 0) {
        close(fd);
    }
}

/* The end of the wire without a word: the other process is gone. What the terminal sends to both is not for this one.
 */
static void watch_over(int wire, const device *d, unsigned devices)
{
    char word = 0;
    setsid();
    signal(SIGHUP, SIG_IGN);
    while (read(wire, &word, 1) < 0 && errno == EINTR) {
    }
    if (word != ALL_IS_WELL) {
        alarm(LONGEST_S);
        for (unsigned i = 0; i < devices; i++) {
            bring_to_rest(&d[i]);
        }
    }
    _exit(0);
}

bool guardian_begin(guardian *g, const device *d, unsigned devices, GError **error)
{
    int wire[2];
    const pid_t child = pipe(wire) == 0 ? fork() : -1;
    if (child < 0) {
        g_set_error(error, G_IO_ERROR, g_io_error_from_errno(errno), "no guardian can be begun: %s", g_strerror(errno));
        return false;
    }
    if (child == 0) {
        close(wire[1]);
        for (int stream = STDIN_FILENO; stream <= STDERR_FILENO; stream++) {
            close(stream);
        }
        watch_over(wire[0], d, devices);
    }
    close(wire[0]);
    fcntl(wire[1], F_SETFD, FD_CLOEXEC);
    *g = (guardian){child, wire[1]};
    return true;
}

void guardian_end(guardian *g)
{
    if (g->pid > 0) {
        const ssize_t ignored = write(g->wire, &(char){ALL_IS_WELL}, 1);
        (void)ignored;
        close(g->wire);
        waitpid(g->pid, NULL, 0);
        g->pid = 0;
    }
}
