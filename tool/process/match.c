/* rigpulse match: settings of the hook-up's mechanisms with which they do what was recorded. */
#include "tool/names.h"
#include "tool/command.h"
#include "tool/picture.h"
#include "tool/progress.h"
#include "tool/reading.h"
#include "tool/rewrite.h"
#include "tool/rigfile.h"

#include "analysis/figures/match_figure.h"
#include "analysis/match.h"
#include "explain/describe.h"
#include "rigpulse/edit.h"
#include "rigpulse/image.h"
#include "runtime/ports.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define MUCH 2.0 /* noises: what is off by more is not noise */

typedef struct match_options {
    char *only, *begin, *until, *picture;
    gboolean json, write;
} match_options;

typedef struct matched {
    const command *self;
    const match_options *o;
    const char *path;
    rgp_rig *rig;
    rgp_recording *recording;
    bool *may;   /* by mechanism */
    char **only; /* names; NULL: all */
    rgp_match found;
} matched;

/* ---- what is asked ---------------------------------------------------------------------------------- */

static bool has_setting(const rgp_mechanism_kind *kind, const char *word)
{
    for (uint32_t i = 0; i < RGP_KIND_SETTINGS_MAX && kind->setting[i].word; i++) {
        if (strcmp(kind->setting[i].word, word) == 0) {
            return true;
        }
    }
    return false;
}

/* All settings of what may change, for a name that none of them has. */
static bool refuse_setting(const matched *m, const char *word)
{
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    const rgp_hookup *h = m->rig->hookup;
    for (uint32_t i = 0; i < h->mechanisms; i++) {
        for (uint32_t k = 0; m->may[i] && k < RGP_KIND_SETTINGS_MAX && h->mechanism[i].kind->setting[k].word; k++) {
            g_ptr_array_add(all, (gpointer)h->mechanism[i].kind->setting[k].word);
        }
    }
    return names_refuse(m->self, "--only", "setting", word, (const char *const *)all->pdata, all->len);
}

static bool find_settings(matched *m)
{
    const rgp_hookup *h = m->rig->hookup;
    m->only = m->o->only ? g_strsplit(m->o->only, ",", -1) : NULL;
    for (char **word = m->only; word && *word; word++) {
        bool any = false;
        g_strstrip(*word);
        for (uint32_t i = 0; i < h->mechanisms; i++) {
            any |= m->may[i] && has_setting(h->mechanism[i].kind, *word);
        }
        if (!any) {
            return refuse_setting(m, *word);
        }
    }
    return true;
}

static bool refuse_mechanism(const matched *m, const char *name)
{
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    for (uint32_t i = 0; i < m->rig->hookup->mechanisms; i++) {
        g_ptr_array_add(all, (gpointer)m->rig->hookup->mechanism[i].name);
    }
    return names_refuse(m->self, m->path, "mechanism", name, (const char *const *)all->pdata, all->len);
}

/* Those that are named, or all that do not fall by themselves: one that does goes elsewhere within a second, however
 * little its settings are off. */
static bool find_mechanisms(matched *m, char **name)
{
    const rgp_hookup *h = m->rig->hookup;
    uint32_t any = 0;
    m->may = g_new0(bool, h->mechanisms + 1);
    for (uint32_t i = 0; i < h->mechanisms; i++) {
        m->may[i] = !*name && !h->mechanism[i].kind->falls;
        any += m->may[i];
    }
    for (; *name; name++, any++) {
        uint32_t i = 0;
        while (i < h->mechanisms && strcmp(h->mechanism[i].name, *name) != 0) {
            i++;
        }
        if (i == h->mechanisms) {
            return refuse_mechanism(m, *name);
        }
        if (h->mechanism[i].kind->falls) {
            return command_fails(
                m->self,
                "'%s' falls by itself, so what is only played to it goes elsewhere at once: it cannot be "
                "matched to a recording",
                *name);
        }
        m->may[i] = true;
    }
    return any > 0 ||
           command_fails(m->self,
                         h->mechanisms > 0 ? "the mechanism of %s falls by itself, so what is only played to it "
                                             "goes elsewhere at once: it cannot be matched to a recording"
                                           : "%s has no mechanism in 'hookup sim' that could be matched",
                         m->path);
}

/* ---- what comes out --------------------------------------------------------------------------------- */

static const rgp_mechanism_item *item_of(const matched *m, const rgp_match_setting *s)
{
    return &m->rig->hookup->mechanism[s->mechanism];
}

static const char *word_of(const matched *m, const rgp_match_setting *s)
{
    return item_of(m, s)->kind->setting[s->setting].word;
}

/* As its line has it. */
static rgp_place place_of(const matched *m, const rgp_match_setting *s)
{
    rgp_place p = {.unit = "", .gain = 1.0};
    rgp_rig_mechanism_place(m->rig, s->mechanism, s->setting, &p);
    return p;
}

static double as_written(const rgp_place *p, double value)
{
    return value * p->gain + p->offset;
}

/* A tenth of what it may be off by is the last digit that says anything. */
static double rounded(const rgp_estimate *e)
{
    const double half = fmax(e->high - e->low, 1e-9 * fabs(e->value)) / 2.0,
                 last = pow(10.0, floor(log10(fmax(half / 3.0, 1e-300))));
    return isfinite(half) && half > 0.0 ? round(e->value / last) * last : e->value;
}

static void put_found(GString *to, const matched *m, const rgp_match_setting *s)
{
    const rgp_place p = place_of(m, s);
    const rgp_estimate *e = &s->found;
    g_autofree char *name = g_strdup_printf("%s %s", item_of(m, s)->name, word_of(m, s));
    g_autofree char *is = g_strdup_printf("%.5g%s%s", as_written(&p, e->value), *p.unit ? " " : "", p.unit);
    g_autofree char *band = g_strdup_printf("%.5g to %.5g", as_written(&p, e->low), as_written(&p, e->high));
    g_string_append_printf(to, "  %-22s %-16s %-24s was %.5g\n", name, is, band, as_written(&p, s->was));
}

/* "power and holds". */
static char *likes_of(const matched *m, const rgp_match_setting *s)
{
    GString *to = g_string_new(NULL);
    for (uint32_t i = 0; i < s->likes; i++) {
        g_string_append_printf(to, "%s%s",
                               i == 0              ? ""
                               : i + 1 == s->likes ? " and "
                                                   : ", ",
                               word_of(m, &m->found.setting[s->like[i]]));
    }
    return g_string_free(to, FALSE);
}

static void put_stays(GString *to, const matched *m, const rgp_match_setting *s)
{
    const char *name = item_of(m, s)->name, *word = word_of(m, s);
    if (s->fate == RGP_MATCH_NO_DIFFERENCE) {
        g_string_append_printf(to, "  %s %s stays: it makes no difference here, or none that could be told\n", name,
                               word);
    } else if (s->fate == RGP_MATCH_LIKE_OTHERS) {
        g_autofree char *others = likes_of(m, s);
        g_string_append_printf(to, "  %s %s stays: a change of %s makes the same difference\n", name, word, others);
    }
}

static void put_sensor(GString *to, const matched *m, const rgp_match_sensor *s)
{
    const rgp_image_header *image = m->rig->image;
    g_string_append_printf(to, "  '%s' was off by %s counts, and is by %s; its noise is %s; ",
                           rgp_image_text(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, s->sensor), 0),
                           rgp_digits(s->before, 3).text, rgp_digits(s->after, 3).text, rgp_digits(s->noise, 3).text);
    if (isnan(s->fit)) {
        g_string_append(to, "it has seen no movement\n");
    } else {
        g_string_append_printf(to, "%.2f %% of what moved is explained\n", s->fit);
    }
    if (s->after > MUCH * s->noise) {
        g_string_append_printf(
            to,
            "  that is %s times its noise: something is missing, or a setting that stays is wrong, and "
            "the intervals do not know of that\n",
            rgp_digits(s->after / s->noise, 2).text);
    }
    if (s->spikes > 0) {
        g_string_append_printf(to, "  %zu of its readings left out as spikes\n", s->spikes);
    }
}

static void print_match(const matched *m, const GPtrArray *doubts)
{
    const rgp_match *f = &m->found;
    g_autoptr(GString) to = g_string_new(NULL);
    g_string_append_printf(to, "the hook-up of %s, driven as in %s from ", m->path, m->recording->name);
    rgp_describe_span(f->begin_s, to);
    g_string_append(to, " for ");
    rgp_describe_span((double)f->rows * f->row_s, to);
    g_string_append(to, "; 19 of 20 intervals\n");
    for (uint32_t i = 0; i < f->settings; i++) {
        if (f->setting[i].fate == RGP_MATCH_FOUND) {
            put_found(to, m, &f->setting[i]);
        }
    }
    for (uint32_t i = 0; i < f->settings; i++) {
        put_stays(to, m, &f->setting[i]);
    }
    for (uint32_t i = 0; i < f->sensors; i++) {
        put_sensor(to, m, &f->sensor[i]);
    }
    for (guint i = 0; i < doubts->len; i++) {
        g_string_append_printf(to, i == 0 ? "nothing is to be built on it:\n  %s\n" : "  %s\n",
                               (const char *)doubts->pdata[i]);
    }
    fputs(to->str, stdout);
}

static const char *const fate_words[] = {[RGP_MATCH_FOUND] = "found",
                                         [RGP_MATCH_NO_DIFFERENCE] = "no difference",
                                         [RGP_MATCH_LIKE_OTHERS] = "like others",
                                         [RGP_MATCH_NOT_NEEDED] = "not needed"};

static json_t *setting_json(const matched *m, const rgp_match_setting *s)
{
    const rgp_place p = place_of(m, s);
    json_t *like = json_array();
    for (uint32_t i = 0; i < s->likes; i++) {
        json_array_append_new(like, json_string(word_of(m, &m->found.setting[s->like[i]])));
    }
    return json_pack("{s:s, s:s, s:s, s:f, s:s, s:f, s:f, s:f, s:o}", "mechanism", item_of(m, s)->name, "setting",
                     word_of(m, s), "unit", p.unit, "was", as_written(&p, s->was), "fate", fate_words[s->fate], "value",
                     as_written(&p, s->found.value), "low", as_written(&p, s->found.low), "high",
                     as_written(&p, s->found.high), "like", like);
}

static void print_json(const matched *m, const GPtrArray *doubts)
{
    const rgp_image_header *image = m->rig->image;
    json_t *settings = json_array(), *sensors = json_array(), *all = json_array();
    for (uint32_t i = 0; i < m->found.settings; i++) {
        json_array_append_new(settings, setting_json(m, &m->found.setting[i]));
    }
    for (uint32_t i = 0; i < m->found.sensors; i++) {
        const rgp_match_sensor *s = &m->found.sensor[i];
        json_array_append_new(
            sensors, json_pack("{s:s, s:f, s:f, s:f, s:o, s:I}", "sensor",
                               rgp_image_text(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, s->sensor), 0),
                               "before", s->before, "after", s->after, "noise", s->noise, "fit",
                               isnan(s->fit) ? json_null() : json_real(s->fit), "spikes", (json_int_t)s->spikes));
    }
    for (guint i = 0; i < doubts->len; i++) {
        json_array_append_new(all, json_string(doubts->pdata[i]));
    }
    command_print_json(json_pack("{s:f, s:o, s:o, s:o}", "fit", m->found.fit, "settings", settings, "sensors", sensors,
                                 "doubts", all));
}

static bool draw(const matched *m)
{
    g_autoptr(GString) script = rgp_match_script(&m->found, m->rig->image, m->o->picture);
    g_autoptr(GError) error = NULL;
    return picture_run(script, m->o->picture, &error) || command_fails(m->self, "%s", error->message);
}

/* The found settings go into the hook-up's lines; all else stays as it is. */
static bool write_found(const matched *m)
{
    const rgp_match *f = &m->found;
    g_autofree rgp_place *place = g_new(rgp_place, f->settings + 1);
    g_autofree const rgp_place **which = g_new(const rgp_place *, f->settings + 1);
    g_autofree double *number = g_new(double, f->settings + 1);
    g_autoptr(GError) error = NULL;
    uint32_t count = 0;
    for (uint32_t i = 0; i < f->settings; i++) {
        const rgp_match_setting *s = &f->setting[i];
        if (s->fate == RGP_MATCH_FOUND && rgp_rig_mechanism_place(m->rig, s->mechanism, s->setting, &place[count])) {
            which[count] = &place[count];
            number[count++] = rounded(&s->found);
        }
    }
    const char *text = rgp_edit_places(m->rig, which, number, count);
    g_autofree char *what = g_strdup_printf("match %s", m->recording->name);
    if (!text || !rewrite_file(m->path, m->rig->source, text, what, &error)) {
        return command_fails(m->self, "--write: %s", error ? error->message : "the file cannot be edited");
    }
    fprintf(m->o->json ? stderr : stdout, "%s is written; 'rigpulse calibrate %s --undo' takes it back\n", m->path,
            m->path);
    return true;
}

static int tell(const matched *m)
{
    g_autoptr(GPtrArray) doubts = rgp_match_doubts(&m->found);
    (m->o->json ? print_json : print_match)(m, doubts);
    if (m->o->picture && !draw(m)) {
        return EXIT_USAGE;
    }
    if (doubts->len > 0) {
        return m->o->write ? command_refuse(m->self, "nothing is written, since nothing is to be built on it")
                           : EXIT_FAULT;
    }
    return !m->o->write || write_found(m) ? EXIT_DONE : EXIT_USAGE;
}

/* ---- the command ------------------------------------------------------------------------------------ */

typedef struct counted {
    progress of;
    uint32_t runs;
} counted;

static bool count_run(void *self)
{
    counted *c = self;
    return progress_tell(&c->of, ++c->runs);
}

static int find(matched *m)
{
    g_autoptr(GError) error = NULL;
    uint64_t from = rgp_history_first(m->recording->history), until = m->recording->rows;
    if (!reading_moment(m->self, m->recording, "--begin", m->o->begin, &from) ||
        !reading_moment(m->self, m->recording, "--until", m->o->until, &until)) {
        return EXIT_USAGE;
    }
    if (until <= from) {
        return command_refuse(m->self, "there is nothing between --begin and --until");
    }
    counted passed = {.of = progress_begin(0)};
    const rgp_match_ask ask = {m->rig, m->recording->history,       from, until, m->recording->simulated,
                               m->may, (const char *const *)m->only};
    const bool found = rgp_match_find(&ask, count_run, &passed, &m->found, &error);
    progress_end(&passed.of);
    if (!found && error) {
        return command_refuse(m->self, "%s", error->message);
    }
    if (!found) {
        fputs("stopped; nothing was found yet, and nothing is written\n", stderr);
        return EXIT_DONE;
    }
    const int status = tell(m);
    rgp_match_clear(&m->found);
    return status;
}

static int match(const command *self, const match_options *o, char **argument)
{
    matched m = {.self = self, .o = o, .path = argument[0]};
    g_autoptr(GError) error = NULL;
    int status = EXIT_USAGE;
    rgp_ports_choose("sim"); /* a rig of devices may have such a hook-up, too */
    if (!picture_fits(self, o->picture) || !(m.rig = rigfile_load(self, m.path))) {
        return EXIT_USAGE;
    }
    m.recording = m.rig->hookup ? reading_whole(argument[1], &error) : NULL;
    if (!m.rig->hookup) {
        command_refuse(self, "%s has no 'hookup sim': write one with a mechanism like yours, 'lag' if none is", m.path);
    } else if (!m.recording) {
        command_refuse(self, "%s", error->message);
    } else if (find_mechanisms(&m, &argument[2]) && find_settings(&m)) {
        status = find(&m);
    }
    g_free(m.may);
    g_strfreev(m.only);
    if (m.recording) {
        rgp_recording_free(m.recording);
    }
    rgp_rig_free(m.rig);
    return status;
}

static int run_match(const command *self, int argc, char **argv)
{
    match_options o = {.only = NULL};
    const GOptionEntry entries[] = {
        {"only", 0, 0, G_OPTION_ARG_FILENAME, &o.only, "settings that may change, with commas; all if not said",
         "NAMES"},
        {"begin", 0, 0, G_OPTION_ARG_FILENAME, &o.begin, "look from a time, a mark or 'line N' on", "MOMENT"},
        {"until", 0, 0, G_OPTION_ARG_FILENAME, &o.until, "and up to another", "MOMENT"},
        {"write", 0, 0, G_OPTION_ARG_NONE, &o.write, "write them into the rig file", NULL},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture, "draw it, as .png or .svg", "PICTURE"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 2, 2 + 16, &status)) {
        status = match(self, &o, &argv[1]);
    }
    char *const all[] = {o.only, o.begin, o.until, o.picture};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        g_free(all[i]);
    }
    return status;
}

const command command_match = {"match", "FILE RECORDING [MECHANISM...]",
                               "finds settings of the simulated mechanisms with which they do what was recorded",
                               "rigpulse match boiler.rig evening.csv kettle", run_match};
