/* Gains and settings: in words, typed, in the rig file, and as a rig of its own. */
#include "tune.h"

#include "analysis/loop_pieces.h"
#include "files/files.h"
#include "rigpulse/edit.h"
#include "runtime/ports.h"
#include "tool/rewrite.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

#define SAME         1e-6 /* relative: what a file's number and one that was typed may differ by */
#define AMOUNT_LEAST 1e-6
#define AMOUNT_MOST  1e6

/* ---- gains and settings ------------------------------------------------------------------------------ */

static const char *param_name(const tuning *t, uint32_t gain)
{
    return rgp_image_text(t->image, RGP_NAME_SLOT, t->is->gain[gain], 0);
}

const char *tune_gain_word(const tuning *t, uint32_t gain)
{
    if (gain >= t->gains) {
        return t->setting[gain - t->gains].name;
    }
    const char *name = param_name(t, gain);
    return t->is->brought >> gain & 1u ? name + strlen(t->name) + 1 : name;
}

const char *tune_gain_unit(const tuning *t, uint32_t gain)
{
    return gain < t->gains ? rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->gain[gain], 0)
                           : t->setting[gain - t->gains].unit;
}

double tune_gain_scale(const tuning *t, uint32_t gain)
{
    return (double)rgp_loop_gain_scale(t->image, t->loop, gain);
}

static double in_file(const tuning *t, uint32_t gain)
{
    const rgp_image_param *param = rgp_image_at(t->image, RGP_SECTION_PARAMS);
    return gain < t->gains ? (double)param[t->is->gain[gain]].initial : t->setting[gain - t->gains].place.value;
}

static void limits_of(const tuning *t, uint32_t gain, double *low, double *high)
{
    const rgp_image_param *param = rgp_image_at(t->image, RGP_SECTION_PARAMS);
    *low = gain < t->gains ? (double)param[t->is->gain[gain]].low : t->setting[gain - t->gains].low;
    *high = gain < t->gains ? (double)param[t->is->gain[gain]].high : t->setting[gain - t->gains].high;
}

void tune_file_gains(const tuning *t, double *gain)
{
    for (uint32_t i = 0; i < t->gains + t->settings; i++) {
        gain[i] = in_file(t, i);
    }
}

static bool is_same(double a, double b)
{
    return fabs(a - b) <= SAME * fmax(fabs(a), fabs(b));
}

bool tune_same_settings(const tuning *t, const double *a, const double *b)
{
    uint32_t i = t->gains;
    while (i < t->gains + t->settings && is_same(a[i], b[i])) {
        i++;
    }
    return i == t->gains + t->settings;
}

static char *gain_words(const tuning *t)
{
    GString *all = g_string_new(NULL);
    for (uint32_t i = 0; i < t->gains + t->settings; i++) {
        g_string_append_printf(all, "%s%s", i ? ", " : "", tune_gain_word(t, i));
    }
    return g_string_free(all, FALSE);
}

/* The gain or setting that a text begins with, and what follows it; the longest name counts ("slope weight"). */
static uint32_t named_by(const tuning *t, const char *text, const char **rest)
{
    uint32_t found = t->gains + t->settings;
    size_t longest = 0;
    for (uint32_t i = 0; i < t->gains + t->settings; i++) {
        const char *word = tune_gain_word(t, i);
        const size_t length = strlen(word);
        if (length > longest && strncmp(text, word, length) == 0 && strchr(" =", text[length])) {
            found = i;
            longest = length;
        }
    }
    *rest = text + longest + strspn(text + longest, " =");
    return found;
}

/* `bare`: it may be written without its unit. *wrong: the reason, when it cannot be taken. */
static bool parse_number(const char *text, const char *unit, bool bare, double *number, const char **wrong)
{
    const char *not_bare;
    return rgp_quantity_parse(text, unit, number, wrong) || (bare && rgp_quantity_parse(text, "", number, &not_bare));
}

static bool parse_gain(const tuning *t, const char *text, double *gain, char **why)
{
    const char *rest, *wrong;
    double low, high;
    const uint32_t i = named_by(t, text, &rest);
    if (i == t->gains + t->settings || !*rest) {
        g_autofree char *all = gain_words(t);
        *why = g_strdup_printf("'%s' is no gain or setting of '%s'; write for instance: %s 8 (there is %s)", text,
                               t->name, tune_gain_word(t, 0), all);
        return false;
    }
    if (!parse_number(rest, tune_gain_unit(t, i), i < t->gains, &gain[i], &wrong)) {
        const char *unit = tune_gain_unit(t, i);
        *why = g_strdup_printf("%s: %s; it %s%s", text, wrong, *unit ? "is in " : "has no unit", unit);
        return false;
    }
    limits_of(t, i, &low, &high);
    if (!(gain[i] >= low && gain[i] <= high)) {
        *why = low > 0.0 && gain[i] <= 0.0
                   ? g_strdup_printf("%s: %s must be above 0", text, tune_gain_word(t, i))
                   : g_strdup_printf("%s: %s can be from %g to %g", text, tune_gain_word(t, i), low, high);
        return false;
    }
    return true;
}

bool tune_parse_gains(const tuning *t, const char *text, double *gain, char **why)
{
    g_auto(GStrv) each = g_strsplit(text, ",", -1);
    bool sound = true;
    for (char **one = each; *one && sound; one++) {
        sound = parse_gain(t, g_strstrip(*one), gain, why);
    }
    return sound;
}

bool tune_parse_amount(const tuning *t, tune_test test, const char *text, double *amount, char **why)
{
    const char *unit = test == TUNE_STEP ? rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->trim, 0)
                                         : rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->bias, 0);
    const char *wrong;
    if (!parse_number(text, unit, true, amount, &wrong)) {
        *why = g_strdup_printf("'%s': %s; it %s%s", text, wrong, *unit ? "is in " : "has no unit", unit);
        return false;
    }
    if (!(fabs(*amount) >= AMOUNT_LEAST && fabs(*amount) <= AMOUNT_MOST)) {
        *why = g_strdup_printf("'%s': it must be from %g to %g %s, or below 0 by as much", text, AMOUNT_LEAST,
                               AMOUNT_MOST, unit);
        return false;
    }
    return true;
}

double tune_setpoint(const tuning *t, const rgp_history *h)
{
    const uint64_t newest = rgp_history_end(h) - 1;
    const rgp_image_loop *l = t->is;
    if (!(l->setpoint & RGP_REF_CONSTANT) &&
        rgp_history_slot(h, l->setpoint) < 0) { /* an expression: nobody keeps it */
        return (double)rgp_history_value(h, (uint32_t)rgp_history_slot(h, l->first + RGP_TERM_TARGET), newest);
    }
    return (double)rgp_history_setting(h, t->is->setpoint, newest) +
           (double)rgp_history_setting(h, t->is->trim, newest);
}

bool tune_step_fits(const tuning *t, double setpoint, double step, char **why)
{
    const uint32_t params = rgp_image_count(t->image, RGP_SECTION_PARAMS);
    const rgp_image_param *p = (const rgp_image_param *)rgp_image_at(t->image, RGP_SECTION_PARAMS) + t->is->setpoint;
    const double to = setpoint + step;
    if (t->is->setpoint < params && !(to >= (double)p->low && to <= (double)p->high)) {
        const char *name = rgp_image_text(t->image, RGP_NAME_SLOT, t->is->setpoint, 0);
        const char *unit = rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->setpoint, 0);
        *why = g_strdup_printf("a step by %g %s would take the setpoint to %g %s; '%s' goes from %g to %g", step,
                               t->unit, to, unit, name, (double)p->low, (double)p->high);
        return false;
    }
    if ((float)to == (float)setpoint) {
        *why = g_strdup_printf("a step by %g %s makes no difference to a setpoint of %g", step, t->unit, setpoint);
        return false;
    }
    return true;
}

/* "kp 25", whose unit is the same in all rows and long; "margin 0.2 K". */
static void put_value(const tuning *t, uint32_t i, double value, GString *to)
{
    const bool ratio = i < t->gains && t->is->terms > RGP_TERM_D;
    const char *unit = ratio ? "" : tune_gain_unit(t, i);
    g_string_append_printf(to, "%s%s %.4g%s%s", to->len ? ", " : "", tune_gain_word(t, i), value, *unit ? " " : "",
                           unit);
}

char *tune_settings_text(const tuning *t, const double *gain)
{
    GString *text = g_string_new(NULL);
    for (uint32_t i = t->gains; i < t->gains + t->settings; i++) {
        if (!is_same(gain[i], in_file(t, i))) {
            put_value(t, i, gain[i], text);
        }
    }
    return g_string_free(text, FALSE);
}

char *tune_gains_text(const tuning *t, const double *gain)
{
    GString *text = g_string_new(NULL);
    g_autofree char *settings = tune_settings_text(t, gain);
    for (uint32_t i = 0; i < t->gains; i++) {
        put_value(t, i, gain[i], text);
    }
    g_string_append_printf(text, "%s%s", *settings ? ", " : "", settings);
    return g_string_free(text, FALSE);
}

/* As it stands in the rig file, without when: "at 25 min kettle opens". */
/* ---- the file ---------------------------------------------------------------------------------------- */

/* The places whose numbers are others now, in a rig of the same loop. *nowhere: a gain that has none. */
static uint32_t changed_places(const tuning *t, rgp_rig *rig, const double *gain, rgp_place *place, double *number,
                               const char **nowhere)
{
    rgp_loop_setting setting[RGP_LOOP_SETTINGS_MAX];
    const uint32_t settings = rgp_rig_loop_settings(rig, t->name, setting);
    uint32_t count = 0;
    for (uint32_t i = 0; i < t->gains + MIN(settings, t->settings); i++) {
        if (i >= t->gains) {
            place[count] = setting[i - t->gains].place;
        } else if (!rgp_rig_param_place(rig, param_name(t, i), &place[count])) {
            *nowhere = param_name(t, i);
            continue;
        }
        if (!is_same(place[count].value, gain[i])) {
            number[count++] = g_ascii_strtod(
                g_ascii_dtostr((char[G_ASCII_DTOSTR_BUF_SIZE]){0}, G_ASCII_DTOSTR_BUF_SIZE, gain[i]), NULL);
        }
    }
    return count;
}

/* The rig's text with these gains and settings; NULL when they stand there already. */
static const char *text_with(const tuning *t, rgp_rig *rig, const double *gain, const char **nowhere)
{
    rgp_place place[TUNE_VALUES];
    const rgp_place *which[TUNE_VALUES];
    double number[TUNE_VALUES];
    const uint32_t count = changed_places(t, rig, gain, place, number, nowhere);
    for (uint32_t i = 0; i < count; i++) {
        which[i] = &place[i];
    }
    return count > 0 ? rgp_edit_places(rig, which, number, count) : NULL;
}

rgp_rig *tune_rig(const tuning *t, const double *gain, GError **error)
{
    double file[TUNE_VALUES];
    tune_file_gains(t, file);
    memcpy(file + t->gains, gain + t->gains, t->settings * sizeof *gain);
    const char *nowhere = NULL, *with = text_with(t, t->file, file, &nowhere), *text = with ? with : t->file->source;
    rgp_rig *rig = rgp_rig_compile(t->path, text, strlen(text), rgp_ports_catalog());
    const bool alike = rig && rig->image && ((const rgp_image_header *)rig->image)->slots == t->image->slots &&
                       ((const rgp_image_header *)rig->image)->memory == t->image->memory;
    if (!alike) {
        g_autofree char *gains = tune_gains_text(t, gain);
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "the rig cannot be taken with %s%s%s", gains,
                    rig && rig->messages ? ": " : "", rig && rig->messages ? rig->message[0].text : "");
        rgp_rig_free(rig);
        return NULL;
    }
    return rig;
}

bool tune_save(tuning *t, const double *gain, char **said)
{
    g_autofree char *now = NULL;
    g_autoptr(GError) error = NULL;
    gsize length = 0;
    bool done = false;
    if (!rgp_file_read(t->path, &now, &length, &error)) {
        *said = g_strdup(error->message);
        return false;
    }
    rgp_rig *rig = rgp_rig_compile(t->path, now, length, rgp_ports_catalog());
    const char *nowhere = NULL, *text = rig && rig->image ? text_with(t, rig, gain, &nowhere) : NULL;
    g_autofree char *words = tune_gains_text(t, gain), *what = g_strdup_printf("tune %s: %s", t->name, words);
    if (!rig || !rig->image) {
        *said = g_strdup_printf("%s has mistakes in it now; 'rigpulse check' says which", t->path);
    } else if (nowhere) {
        *said = g_strdup_printf("%s stands nowhere as a number", nowhere);
    } else if (text && !rewrite_file(t->path, rig->source, text, what, &error)) {
        *said = g_strdup(error->message);
    } else {
        *said = text ? g_strdup_printf("%s is written: %s; 'rigpulse calibrate %s --undo' takes it back", t->path,
                                       words, t->path)
                     : g_strdup_printf("these gains stand in %s already", t->path);
        done = true;
    }
    rgp_rig_free(rig);
    return done;
}
