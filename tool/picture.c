/* Pictures put where the person wants them. */
#include "picture.h"

#include "files/files.h"

#include <gio/gio.h>

bool picture_is_named(const char *path)
{
    return g_str_has_suffix(path, ".png") || g_str_has_suffix(path, ".svg");
}

bool picture_fits(const command *self, const char *path)
{
    const bool fits = !path || picture_is_named(path);
    if (!fits) {
        command_refuse(self, "-o %s: the name of a picture ends with .png or .svg", path);
    }
    return fits;
}

/* Text that came from a file is in the script, but only within quotes; the picture's name is not. */
bool picture_run(const GString *script, const char *path, GError **error)
{
    g_autoptr(GSubprocess) gnuplot = g_subprocess_new(G_SUBPROCESS_FLAGS_STDIN_PIPE | G_SUBPROCESS_FLAGS_STDOUT_PIPE |
                                                          G_SUBPROCESS_FLAGS_STDERR_PIPE,
                                                      error, "gnuplot", "-d", "-", NULL);
    if (!gnuplot) {
        g_prefix_error(error, "pictures are drawn with gnuplot (Debian package gnuplot-nox): ");
        return false;
    }
    g_autoptr(GBytes) input = g_bytes_new(script->str, script->len);
    g_autoptr(GBytes) picture = NULL;
    g_autoptr(GBytes) complaint = NULL;
    if (!g_subprocess_communicate(gnuplot, input, NULL, &picture, &complaint, error)) {
        return false;
    }
    if (!g_subprocess_get_successful(gnuplot) || g_bytes_get_size(picture) == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: gnuplot failed: %.*s", path,
                    (int)g_bytes_get_size(complaint), (const char *)g_bytes_get_data(complaint, NULL));
        return false;
    }
    if (!rgp_file_write(path, g_bytes_get_data(picture, NULL), g_bytes_get_size(picture), 0666, error)) {
        g_prefix_error(error, "cannot write the picture: ");
        return false;
    }
    return true;
}

bool picture_draw(const rgp_recording *recording, const rgp_figure *figure, GError **error)
{
    g_autoptr(GString) script = rgp_figure_script(recording, figure);
    return picture_run(script, figure->path, error);
}
