/* Files, read and written so that nothing is waited for and nothing is lost. */
#include "files.h"

#include <errno.h>
#include <fcntl.h>
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <signal.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define TEMPORARY ".tmp-"
#define PIECE     65536u

static bool fail(GError **error, const char *path, int code)
{
    g_set_error(error, G_IO_ERROR, (gint)g_io_error_from_errno(code), "%s: %s", path, g_strerror(code));
    return false;
}

/* ---- reading --------------------------------------------------------------------------------------- */

static bool read_to_end(int file, const char *path, char **text, gsize *length, GError **error)
{
    g_autoptr(GByteArray) all = g_byte_array_new();
    ssize_t got;
    do {
        const guint before = all->len;
        g_byte_array_set_size(all, before + PIECE);
        do {
            got = read(file, all->data + before, PIECE);
        } while (got < 0 && errno == EINTR && file != STDIN_FILENO); /* there a person may wish to leave */
        g_byte_array_set_size(all, before + (guint)MAX(got, 0));
    } while (got > 0 && all->len < G_MAXUINT - 2u * PIECE);
    if (got != 0) {
        return fail(error, path, got < 0 ? errno : EFBIG);
    }
    if (length) {
        *length = all->len;
    }
    g_byte_array_append(all, (const guint8 *)"", 1);
    *text = (char *)g_byte_array_free(g_steal_pointer(&all), FALSE);
    return true;
}

static bool check_plain(int file, const char *path, GError **error)
{
    struct stat is;
    if (fstat(file, &is) != 0) {
        return fail(error, path, errno);
    }
    if (!S_ISREG(is.st_mode)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_REGULAR_FILE, "%s is %s, and no plain file", path,
                    S_ISDIR(is.st_mode)    ? "a folder"
                    : S_ISFIFO(is.st_mode) ? "a pipe"
                                           : "a device");
        return false;
    }
    return true;
}

int rgp_file_open(const char *path, guint64 *bytes, GError **error)
{
    const int file = open(path, O_RDONLY | O_NONBLOCK | O_CLOEXEC);
    struct stat is;
    if (file < 0) {
        fail(error, path, errno);
        return -1;
    }
    if (!check_plain(file, path, error)) {
        close(file);
        return -1;
    }
    *bytes = fstat(file, &is) == 0 ? (guint64)is.st_size : 0;
    return file;
}

gssize rgp_file_piece(int file, void *to, gsize room)
{
    gssize got;
    do {
        got = read(file, to, room);
    } while (got < 0 && errno == EINTR);
    return got;
}

bool rgp_file_bytes(int file, guint64 place, void *to, gsize bytes)
{
    gsize done = 0;
    while (done < bytes) {
        const gssize got = pread(file, (char *)to + done, bytes - done, (off_t)(place + done));
        if (got <= 0 && !(got < 0 && errno == EINTR)) {
            return false;
        }
        done += got > 0 ? (gsize)got : 0;
    }
    return true;
}

bool rgp_file_read(const char *path, char **text, gsize *length, GError **error)
{
    const int file = open(path, O_RDONLY | O_NONBLOCK | O_CLOEXEC);
    if (file < 0) {
        return fail(error, path, errno);
    }
    const bool read = check_plain(file, path, error) && read_to_end(file, path, text, length, error);
    close(file);
    return read;
}

bool rgp_file_read_input(char **text, gsize *length, GError **error)
{
    return read_to_end(STDIN_FILENO, "standard input", text, length, error);
}

bool rgp_file_is_same(const char *a, const char *b)
{
    struct stat x, y;
    return stat(a, &x) == 0 && stat(b, &y) == 0 && x.st_dev == y.st_dev && x.st_ino == y.st_ino;
}

/* ---- writing --------------------------------------------------------------------------------------- */

char *rgp_file_temporary(const char *path)
{
    return g_strdup_printf("%s" TEMPORARY "%ld", path, (long)getpid());
}

static bool is_gone(const char *number)
{
    char *end;
    const guint64 process = g_ascii_strtoull(number, &end, 10);
    return *number && *end == '\0' && process > 0 && process < G_MAXINT32 && kill((pid_t)process, 0) != 0 &&
           errno == ESRCH;
}

void rgp_file_sweep(const char *path)
{
    g_autofree char *folder = g_path_get_dirname(path), *name = g_path_get_basename(path);
    g_autofree char *begin = g_strconcat(name, TEMPORARY, NULL);
    GDir *open = g_dir_open(folder, 0, NULL);
    for (const char *entry; open && (entry = g_dir_read_name(open));) {
        if (g_str_has_prefix(entry, begin) && is_gone(entry + strlen(begin))) {
            g_autofree char *left = g_build_filename(folder, entry, NULL);
            g_unlink(left);
        }
    }
    if (open) {
        g_dir_close(open);
    }
}

void rgp_file_sync_folder(const char *path)
{
    g_autofree char *folder = g_path_get_dirname(path);
    const int file = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (file >= 0) {
        fsync(file); /* some file systems cannot; the file itself is safe */
        close(file);
    }
}

static bool write_all(int file, const char *bytes, gsize length)
{
    while (length > 0) {
        const ssize_t put = write(file, bytes, length);
        if (put < 0 && errno != EINTR) {
            return false;
        }
        bytes += MAX(put, 0);
        length -= (gsize)MAX(put, 0);
    }
    return fsync(file) == 0;
}

bool rgp_file_write(const char *path, const void *bytes, gsize length, int mode, GError **error)
{
    g_autofree char *temporary = rgp_file_temporary(path);
    rgp_file_sweep(path);
    g_unlink(temporary);
    const int file = open(temporary, O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, (mode_t)mode);
    if (file < 0) {
        return fail(error, path, errno);
    }
    bool done = write_all(file, bytes, length);
    int code = errno;
    if (close(file) != 0 && done) {
        done = false;
        code = errno;
    }
    if (done && g_rename(temporary, path) != 0) {
        done = false;
        code = errno;
    }
    if (!done) {
        g_unlink(temporary);
        return fail(error, path, code);
    }
    rgp_file_sync_folder(path);
    return true;
}
