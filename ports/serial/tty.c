/* Serial lines and pseudo-terminals, opened raw through termios. */
#define _DEFAULT_SOURCE /* flock, and speeds beyond those of POSIX */
#include "tty.h"

#include <errno.h>
#include <fcntl.h>
#include <gio/gio.h>
#include <sys/file.h>
#include <termios.h>
#include <unistd.h>

static const struct {
    unsigned bits;
    speed_t code;
} speeds[] = {
    {50, B50},           {75, B75},           {110, B110},         {134, B134},         {150, B150},
    {200, B200},         {300, B300},         {600, B600},         {1200, B1200},       {1800, B1800},
    {2400, B2400},       {4800, B4800},       {9600, B9600},       {19200, B19200},     {38400, B38400},
#ifdef B57600
    {57600, B57600},     {115200, B115200},   {230400, B230400},
#endif
#ifdef B460800
    {460800, B460800},   {500000, B500000},   {576000, B576000},   {921600, B921600},
#endif
#ifdef B1000000
    {1000000, B1000000}, {1152000, B1152000}, {1500000, B1500000}, {2000000, B2000000},
#endif
#ifdef B2500000
    {2500000, B2500000}, {3000000, B3000000}, {3500000, B3500000}, {4000000, B4000000},
#endif
};

static const speed_t *find_speed(unsigned bits)
{
    for (size_t i = 0; i < G_N_ELEMENTS(speeds); i++) {
        if (speeds[i].bits == bits) {
            return &speeds[i].code;
        }
    }
    return NULL;
}

bool tty_knows_speed(unsigned speed)
{
    return find_speed(speed) != NULL;
}

char *tty_speeds(void)
{
    GString *all = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(speeds); i++) {
        g_string_append_printf(all, "%s%u", i ? ", " : "", speeds[i].bits);
    }
    return g_string_free(all, FALSE);
}

static const char *way_out(int number)
{
    switch (number) {
    case ENOENT:
    case ENXIO:
    case ENODEV:
        return "; is it plugged in? 'rigpulse ports' lists what there is";
    case EACCES:
    case EPERM:
        return "; the group that may use it stands in 'ls -l', often 'dialout'";
    case EBUSY:
    case EWOULDBLOCK:
        return "; another program has it open";
    default:
        return "";
    }
}

static void fail(const char *path, int number, GError **error)
{
    g_set_error(error, G_IO_ERROR, g_io_error_from_errno(number), "%s: %s%s", path,
                number == EWOULDBLOCK ? "it is in use" : g_strerror(number), way_out(number));
}

/* No echo, no line editing, eight bits, no parity, nobody waits: bytes as they are. */
static bool make_raw(int fd, const char *path, unsigned speed, bool restarts, GError **error)
{
    struct termios line;
    const speed_t *code = find_speed(speed);
    if (!code) {
        g_autofree char *all = tty_speeds();
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "%s: there is no speed %u; there are %s", path,
                    speed, all);
        return false;
    }
    if (tcgetattr(fd, &line) != 0) {
        fail(path, errno, error);
        return false;
    }
    line.c_iflag = IGNBRK | IGNPAR;
    line.c_oflag = 0;
    line.c_lflag = 0;
    line.c_cflag = CS8 | CREAD | CLOCAL | (restarts ? HUPCL : 0);
    line.c_cc[VMIN] = 1; /* with O_NONBLOCK: nothing there is EAGAIN, and 0 bytes are its end */
    line.c_cc[VTIME] = 0;
    cfsetispeed(&line, *code);
    cfsetospeed(&line, *code);
    if (tcsetattr(fd, TCSANOW, &line) != 0) {
        fail(path, errno, error);
        return false;
    }
    tcflush(fd, TCIOFLUSH); /* what was printed for nobody */
    return true;
}

int tty_open(const char *path, unsigned speed, bool restarts, GError **error)
{
    const int fd = open(path, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (fd < 0) {
        fail(path, errno, error);
        return -1;
    }
    bool opened = true;
    if (!isatty(fd)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT,
                    "%s: this is no terminal; a recording is played by 'hookup sim', with plays", path);
        opened = false;
    } else if (flock(fd, LOCK_EX | LOCK_NB) != 0) {
        fail(path, errno, error);
        opened = false;
    }
    if (!opened || !make_raw(fd, path, speed, restarts, error)) {
        close(fd);
        return -1;
    }
    return fd;
}
