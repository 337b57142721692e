/* Keys that keep something: recordings, parameters in the rig file. */
#include "watch.h"

#include "runtime/ports.h"
#include "rigpulse/edit.h"
#include "tool/rewrite.h"

#include <math.h>
#include <string.h>

static bool take_recording(void *self, const char *answer)
{
    watching *w = self;
    g_autoptr(GError) error = NULL;
    g_autofree char *taken = NULL;
    if (!*answer) {
        return true;
    }
    rgp_door_look_away(w->door);
    const bool begun = rgp_door_record(w->door, answer, &taken, &error);
    w->view.history = rgp_door_look(w->door);
    if (begun) {
        watch_say(w,
                  strcmp(taken, answer) == 0 ? "recording %s" : "recording %s, since there is a recording %s already",
                  taken, answer);
        g_free(w->recording);
        w->recording = g_steal_pointer(&taken);
    } else {
        watch_say(w, "%s", error->message);
    }
    return begun;
}

void watch_toggle_recording(watching *w)
{
    if (!watch_may(w, RGP_COMMANDS)) {
        return;
    }
    if (!w->recording) {
        watch_ask(w, take_recording, 0, "a name for the recording");
        return;
    }
    rgp_door_look_away(w->door);
    rgp_door_record(w->door, NULL, NULL, NULL);
    w->view.history = rgp_door_look(w->door);
    watch_say(w, "recorded %s", w->recording);
    g_clear_pointer(&w->recording, g_free);
}

/* The new text with the parameters that a person has changed as they are now, frozen or not, or of those with the ones
 * that `only` names; NULL when none differs. What rules have set is not meant to stay. */
static char *text_with_params(const watching *w, rgp_rig *rig, const char *const *only, GString *changed)
{
    const uint32_t params = rgp_image_count(w->view.image, RGP_SECTION_PARAMS);
    const uint64_t newest = rgp_history_end(w->view.history) - 1;
    g_autofree rgp_place *place = g_new0(rgp_place, params + 1);
    g_autofree const rgp_place **which = g_new0(const rgp_place *, params + 1);
    g_autofree double *number = g_new0(double, params + 1);
    uint32_t count = 0;
    for (uint32_t i = 0; i < params; i++) {
        const char *name = rgp_image_text(w->view.image, RGP_NAME_SLOT, i, 0);
        g_autofree char *text = g_strdup_printf(
            "%.6g", (double)rgp_history_value(w->view.history, (uint32_t)rgp_history_slot(w->view.history, i), newest));
        const double now = g_ascii_strtod(text, NULL);
        if (w->changed[i] && (!only || g_strv_contains(only, name)) && rgp_rig_param_place(rig, name, &place[i]) &&
            fabs(now - place[i].value) > 1e-6 * fabs(now)) {
            which[count] = &place[i];
            number[count++] = now;
            g_string_append_printf(changed, "%s%s = %s %s (was %g)", changed->len ? ", " : "", name, text,
                                   rgp_image_unit(w->view.image, RGP_NAME_SLOT, i, 0), place[i].value);
        }
    }
    return count > 0 ? g_strdup(rgp_edit_places(rig, which, number, count)) : NULL;
}

static void write_params(watching *w, const char *const *only)
{
    g_autoptr(GString) changed = g_string_new(NULL);
    g_autoptr(GError) error = NULL;
    rgp_rig *standing = w->file ? w->file : (rgp_rig *)w->door->rig;
    g_autofree char *text = text_with_params(w, standing, only, changed);
    if (!text || !rewrite_file(w->path, standing->source, text, "watch", &error)) {
        watch_say(w, "%s", error ? error->message : "nothing to write");
        return;
    }
    rgp_rig *now = rgp_rig_compile(w->path, text, strlen(text), rgp_ports_catalog());
    rgp_rig_free(w->file);
    w->file = now;
    watch_say(w, "%s is written: %s", w->path, changed->str);
}

/* The first word that names no parameter that was changed; NULL: all do. */
static const char *not_changed(const watching *w, char **words)
{
    for (char **word = words; *word; word++) {
        uint32_t i = 0;
        while (i < rgp_image_count(w->view.image, RGP_SECTION_PARAMS) &&
               !(w->changed[i] && strcmp(rgp_image_text(w->view.image, RGP_NAME_SLOT, i, 0), *word) == 0)) {
            i++;
        }
        if (i == rgp_image_count(w->view.image, RGP_SECTION_PARAMS)) {
            return *word;
        }
    }
    return NULL;
}

static bool take_write(void *self, const char *answer)
{
    watching *w = self;
    static const char *const yes[] = {"y", "yes", "Y", NULL}, *const no[] = {"", "n", "no", "N", NULL};
    g_autofree char *spaced = g_strdelimit(g_strdup(answer), ",", ' ');
    g_auto(GStrv) words = g_regex_split_simple(" +", spaced, 0, 0);
    if (g_strv_contains(no, answer)) {
        watch_say(w, "not written");
        return true;
    }
    if (g_strv_contains(yes, answer)) {
        write_params(w, NULL);
        return true;
    }
    const char *unknown = not_changed(w, words);
    if (unknown) {
        watch_say(w, "'%s' is not among them; y writes all, n none", unknown);
        return false;
    }
    write_params(w, (const char *const *)words);
    return true;
}

void watch_ask_write(watching *w)
{
    g_autoptr(GString) changed = g_string_new(NULL);
    if (!w->path) {
        watch_say(w, "this is a recording: there is no rig file to write to");
        return;
    }
    g_autofree char *text = text_with_params(w, w->file ? w->file : (rgp_rig *)w->door->rig, NULL, changed);
    if (text) {
        watch_ask(w, take_write, 0, "write %s into %s? y, n, or the names", changed->str, w->path);
    } else {
        watch_say(w, "you have changed no parameter that does not stand in %s as it is", w->path);
    }
}
