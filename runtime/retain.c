/* The file of what a rig keeps over a power cycle. */
#include "retain.h"

#include "files/files.h"

#include <gio/gio.h>
#include <string.h>

#define KEPT_ROOM 65536u

struct retain_file {
    char *path;
    GMutex lock;
    unsigned char block[KEPT_ROOM], written[KEPT_ROOM];
    uint32_t size, written_size;
};

/* A damaged file is told, and the rig begins anew: a device has to come up. */
static char *take_up(rgp_engine *engine, const char *path, GError **error)
{
    g_autofree char *block = NULL;
    g_autoptr(GError) problem = NULL;
    gsize size;
    uint32_t taken;
    if (!rgp_file_read(path, &block, &size, &problem)) {
        if (g_error_matches(problem, G_IO_ERROR, G_IO_ERROR_NOT_FOUND)) {
            return g_strdup_printf("%s: nothing kept yet, a clean start", path);
        }
        g_propagate_error(error, g_steal_pointer(&problem));
        return NULL;
    }
    const rgp_status status = size > KEPT_ROOM ? RGP_E_SIZE : rgp_engine_restore(engine, block, (uint32_t)size, &taken);
    if (status != RGP_OK) {
        return g_strdup_printf("%s: this is %s; a clean start", path,
                               status == RGP_E_DAMAGED ? "damaged" : "nothing that a rig keeps, or of another version");
    }
    return g_strdup_printf("%s: %u kept %s taken up", path, taken, taken == 1 ? "value" : "values");
}

retain_file *retain_begin(rgp_engine *engine, const char *path, char **says, GError **error)
{
    if (rgp_image_count(engine->image, RGP_SECTION_RETAINED) == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT,
                    "--kept %s: this rig keeps nothing; add a line 'keep SIGNAL'", path);
        return NULL;
    }
    *says = take_up(engine, path, error);
    if (!*says) {
        g_prefix_error(error, "--kept: ");
        return NULL;
    }
    retain_file *k = g_new0(retain_file, 1);
    k->path = g_strdup(path);
    g_mutex_init(&k->lock);
    retain_copy(k, engine);
    if (!retain_write(k, error)) {
        g_prefix_error(error, "--kept: ");
        retain_end(k);
        return NULL;
    }
    return k;
}

void retain_copy(retain_file *k, const rgp_engine *engine)
{
    if (g_mutex_trylock(&k->lock)) { /* a tick does not wait; there is a next time */
        rgp_engine_retain(engine, k->block, KEPT_ROOM, &k->size);
        g_mutex_unlock(&k->lock);
    }
}

bool retain_write(retain_file *k, GError **error)
{
    g_mutex_lock(&k->lock);
    const bool fresh =
        k->size <= KEPT_ROOM && (k->size != k->written_size || memcmp(k->block, k->written, k->size) != 0);
    if (fresh) {
        memcpy(k->written, k->block, k->size);
        k->written_size = k->size;
    }
    g_mutex_unlock(&k->lock);
    return !fresh || rgp_file_write(k->path, k->written, k->written_size, 0666, error);
}

void retain_end(retain_file *k)
{
    if (k) {
        g_mutex_clear(&k->lock);
        g_free(k->path);
        g_free(k);
    }
}
