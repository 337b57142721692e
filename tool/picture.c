#include "picture.h"

#include <errno.h>
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <string.h>
#include <unistd.h>

bool picture_run(const GString *script, const char *path, GError **error)
{
    g_autofree char *folder = g_path_get_dirname(path);
    if (g_access(folder, W_OK) != 0 || g_file_test(path, G_FILE_TEST_IS_DIR)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: cannot write the picture: %s", path,
                    g_strerror(errno ? errno : EISDIR));
        return false;
    }
    g_autoptr(GSubprocess) gnuplot =
        g_subprocess_new(G_SUBPROCESS_FLAGS_STDIN_PIPE | G_SUBPROCESS_FLAGS_STDERR_PIPE, error, "gnuplot", "-", NULL);
    if (!gnuplot) {
        g_prefix_error(error, "pictures are drawn with gnuplot (Debian package gnuplot-nox): ");
        return false;
    }
    g_autoptr(GBytes) input = g_bytes_new(script->str, script->len);
    g_autoptr(GBytes) complaint = NULL;
    if (!g_subprocess_communicate(gnuplot, input, NULL, NULL, &complaint, error)) {
        return false;
    }
    if (!g_subprocess_get_successful(gnuplot)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: gnuplot failed: %.*s", path,
                    (int)g_bytes_get_size(complaint), (const char *)g_bytes_get_data(complaint, NULL));
        return false;
    }
    return true;
}

bool picture_draw(const rp_recording *recording, const rp_figure *figure, GError **error)
{
    g_autoptr(GString) script = rp_figure_script(recording, figure);
    return picture_run(script, figure->path, error);
}
