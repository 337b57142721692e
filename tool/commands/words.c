/* rigpulse words: the language, and what can be hooked up, from the tables that the compiler reads. */
#include "syntax.h"
#include "tool/command.h"

#include "rigpulse/lang.h"
#include "runtime/ports.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define WIDTH 79 /* of a line, at most */

/* Of one word all there is to say. Texts are the tables'. */
typedef struct entry {
    rgp_word is;
    GArray *setting; /* rgp_word_setting */
} entry;

static void free_entry(void *one)
{
    entry *e = one;
    g_array_unref(e->setting);
    g_free(e);
}

static entry *new_entry(GPtrArray *all, rgp_word is)
{
    entry *e = g_new0(entry, 1);
    *e = (entry){is, g_array_new(FALSE, FALSE, sizeof(rgp_word_setting))};
    g_ptr_array_add(all, e);
    return e;
}

/* ---- what can be hooked up ------------------------------------------------------------------------- */

static const char *unit_shown(const char *unit_text)
{
    if (!unit_text) {
        return "the word alone";
    }
    return strcmp(unit_text, RGP_UNIT_OWN) == 0        ? "its own unit, the first that is written"
           : strcmp(unit_text, RGP_UNIT_OWN_STEP) == 0 ? "its own unit, a difference"
           : strcmp(unit_text, RGP_UNIT_TEXT) == 0     ? "a text in quotes"
                                                       : unit_text;
}

static const char *keep_text(GPtrArray *texts, GString *text)
{
    char *kept = g_string_free(text, FALSE);
    g_ptr_array_add(texts, kept);
    return kept;
}

/* A joined setting stands behind the one before it, without a comma. */
static const char *setting_told(const rgp_setting *s, uint32_t i, GPtrArray *texts)
{
    const char *help = s[i].help ? s[i].help : "";
    uint32_t before = i;
    while (s[before].joined) {
        before--;
    }
    GString *told = g_string_new(help);
    if (before < i) {
        g_string_printf(told, "behind '%s': %s", s[before].word, help);
    }
    return keep_text(texts, told);
}

static void add_settings(entry *e, const rgp_setting *s, GPtrArray *texts)
{
    for (uint32_t i = 0; i < RGP_KIND_SETTINGS_MAX && s[i].word; i++) {
        const bool bounded = s[i].unit && strcmp(s[i].unit, RGP_UNIT_TEXT) != 0;
        const rgp_word_setting one = {.word = s[i].word,
                                      .name = setting_told(s, i, texts),
                                      .unit = unit_shown(s[i].unit),
                                      .least = !bounded || s[i].low <= -1e9 ? -INFINITY : s[i].low,
                                      .greatest = !bounded || s[i].high >= 1e9 ? INFINITY : s[i].high,
                                      .initial = !bounded || s[i].initial < s[i].low ? NAN : s[i].initial};
        g_array_append_val(e->setting, one);
    }
}

/* "depth cm, flow ml/s" */
static char *terminals_told(const rgp_terminal *t)
{
    GString *all = g_string_new(NULL);
    for (uint32_t i = 0; i < RGP_KIND_TERMINALS_MAX && t[i].word; i++) {
        g_string_append_printf(all, "%s%s", i ? ", " : "", t[i].word);
        if (t[i].unit && *t[i].unit) {
            g_string_append_printf(all, " (%s)", unit_shown(t[i].unit));
        }
    }
    return g_string_free(all, FALSE);
}

static void say_terminals(GString *to, const char *what, const rgp_terminal *t)
{
    g_autofree char *told = terminals_told(t);
    if (*told) {
        g_string_append_printf(to, "; %s: %s", what, told);
    }
}

static void add_mechanism(GPtrArray *all, GPtrArray *texts, const char *group, const rgp_mechanism_kind *k)
{
    GString *help = g_string_new(k->help), *form = g_string_new(k->word);
    say_terminals(help, "driven by", k->input);
    say_terminals(help, "can be seen", k->output);
    say_terminals(help, "can happen", k->disturbance);
    g_string_append(form, " NAME: SETTINGS");
    for (uint32_t n = 0; n < RGP_KIND_TERMINALS_MAX && k->input[n].word; n++) {
        g_string_append_printf(form, ", %s by ACTUATOR", k->input[n].word);
    }
    const rgp_word is = {group, k->word, keep_text(texts, form), keep_text(texts, help), "", NULL, NULL};
    add_settings(new_entry(all, is), k->setting, texts);
}

static void add_mechanisms(GPtrArray *all, GPtrArray *texts, const rgp_catalog *catalog)
{
    for (uint32_t i = 0; catalog->mechanism[i]; i++) {
        add_mechanism(all, texts, catalog->thing, catalog->mechanism[i]);
    }
}

static void add_sources(GPtrArray *all, GPtrArray *texts, const rgp_catalog *catalog)
{
    for (uint32_t i = 0; catalog->sensor[i]; i++) {
        const rgp_sensor_kind *k = catalog->sensor[i];
        GString *help = g_string_new("how a sensor gets its readings");
        say_terminals(help, "can happen", k->disturbance);
        const rgp_word is = {"source", k->word, k->help, keep_text(texts, help), "", NULL, NULL};
        add_settings(new_entry(all, is), k->setting, texts);
    }
}

static void add_orders(GPtrArray *all, GPtrArray *texts, const rgp_catalog *catalog)
{
    for (uint32_t i = 0; catalog->actuator && catalog->actuator[i]; i++) {
        const rgp_actuator_kind *k = catalog->actuator[i];
        const rgp_word is = {"order", k->word, k->help, "how an actuator of a device is driven", "", NULL, NULL};
        add_settings(new_entry(all, is), k->setting, texts);
    }
}

static GPtrArray *all_words(GPtrArray *texts)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(free_entry);
    rgp_word is;
    rgp_word_setting setting;
    for (uint32_t i = 0; rgp_word_at(i, &is); i++) {
        entry *e = new_entry(all, is);
        for (uint32_t k = 0; rgp_word_setting_at(i, k, &setting); k++) {
            g_array_append_val(e->setting, setting);
        }
    }
    void (*const add[])(GPtrArray *, GPtrArray *, const rgp_catalog *) = {add_mechanisms, add_sources, add_orders};
    for (size_t i = 0; i < G_N_ELEMENTS(add); i++) {
        for (const rgp_catalog *c = rgp_ports_catalog(); c; c = c->next) {
            add[i](all, texts, c);
        }
    }
    return all;
}

/* ---- for a person ---------------------------------------------------------------------------------- */

/* Words behind one another, broken so that a line begins at `indent`. */
static void print_wrapped(const char *text, int indent)
{
    int column = 0;
    g_auto(GStrv) word = g_strsplit(text, " ", -1);
    for (guint i = 0; word[i]; i++) {
        const int length = (int)g_utf8_strlen(word[i], -1);
        if (column > 0 && column + 1 + length > WIDTH - indent) {
            putchar('\n');
            column = 0;
        }
        column += column == 0 ? printf("%*s%s", indent, "", word[i]) - indent : printf(" %s", word[i]);
    }
    putchar('\n');
}

static void describe_bounds(const rgp_word_setting *s, GString *to)
{
    if (isfinite(s->least) && isfinite(s->greatest) && !s->above) {
        g_string_append_printf(to, ", %g to %g", s->least, s->greatest);
    } else {
        if (isfinite(s->least)) {
            g_string_append_printf(to, ", %s %g", s->above ? "above" : "at least", s->least);
        }
        if (isfinite(s->greatest)) {
            g_string_append_printf(to, ", at most %g", s->greatest);
        }
    }
    g_string_append_printf(to, "%s%s", s->odd ? ", odd" : "", s->not_zero ? ", not 0" : "");
}

static void print_setting(const rgp_word_setting *s)
{
    g_autoptr(GString) line = g_string_new(s->word);
    g_string_append_printf(line, "%s%s: %s", *s->word && *s->name ? ", " : "", s->name,
                           *s->unit ? s->unit : "a bare number");
    describe_bounds(s, line);
    if (!isnan(s->initial)) {
        g_string_append_printf(line, "; %g if not written", s->initial);
    }
    print_wrapped(line->str, 6);
}

static void print_entry(const entry *e)
{
    const bool is_unit = strcmp(e->is.group, "unit") == 0;
    printf("%s: %s", e->is.group, is_unit ? e->is.word : e->is.form);
    printf(is_unit && *e->is.form ? ", %s\n" : "\n", e->is.form);
    print_wrapped(e->is.help, 4);
    if (e->is.role) {
        printf("    it %s\n", e->is.role);
    }
    for (guint i = 0; i < e->setting->len; i++) {
        print_setting(&g_array_index(e->setting, rgp_word_setting, i));
    }
    if (is_unit || *e->is.example) {
        printf("    %s: %s\n", is_unit ? "of" : "for instance", e->is.example);
    }
    if (e->is.slip) {
        g_autofree char *slip = g_strconcat("often wrong: ", e->is.slip, NULL);
        print_wrapped(slip, 4);
    }
}

/* Each group with its words alone. */
static void print_contents(const GPtrArray *all)
{
    for (guint i = 0; i < all->len;) {
        const char *group = ((const entry *)all->pdata[i])->is.group;
        g_autoptr(GString) words = g_string_new(NULL);
        for (; i < all->len && strcmp(((const entry *)all->pdata[i])->is.group, group) == 0; i++) {
            const char *word = ((const entry *)all->pdata[i])->is.word;
            g_string_append_printf(words, "%s%s", words->len ? ", " : "", word);
        }
        puts(group);
        print_wrapped(words->str, 4);
    }
    puts("\n'rigpulse words GROUP' says what each means, 'rigpulse words WORD' all of one.");
}

/* ---- for a program --------------------------------------------------------------------------------- */

static json_t *number_or_null(double number)
{
    return isfinite(number) ? json_real(number) : json_null();
}

static json_t *json_of(const entry *e)
{
    json_t *settings = json_array();
    for (guint i = 0; i < e->setting->len; i++) {
        const rgp_word_setting *s = &g_array_index(e->setting, rgp_word_setting, i);
        json_array_append_new(settings,
                              json_pack("{s:s, s:s, s:s, s:o, s:b, s:o, s:b, s:b, s:o}", "word", s->word, "name",
                                        s->name, "unit", s->unit, "least", number_or_null(s->least), "above", s->above,
                                        "greatest", number_or_null(s->greatest), "not_zero", s->not_zero, "odd", s->odd,
                                        "default", number_or_null(s->initial)));
    }
    const bool is_unit = strcmp(e->is.group, "unit") == 0;
    json_t *told =
        json_pack("{s:s, s:s, s:s, s:s, s:s, s:s?, s:o}", "group", e->is.group, "word", e->is.word,
                  is_unit ? "also" : "form", e->is.form, "help", e->is.help, is_unit ? "quantity" : "example",
                  e->is.example, "often_wrong", e->is.slip, "settings", settings);
    if (e->is.role) {
        json_object_set_new(told, "role", json_string(e->is.role));
    }
    return told;
}

/* ---- topics ---------------------------------------------------------------------------------------- */

/* A group, also in the plural, or a word. */
static bool is_group(const entry *e, const char *topic)
{
    const size_t length = strlen(e->is.group);
    return strncmp(topic, e->is.group, length) == 0 && (!topic[length] || strcmp(topic + length, "s") == 0);
}

static bool is_word(const entry *e, const char *topic)
{
    const bool also = strcmp(e->is.group, "unit") == 0 && *e->is.form && strcmp(e->is.form, topic) == 0;
    return also || strcmp(e->is.word, topic) == 0;
}

static GPtrArray *words_about(const GPtrArray *all, const char *topic)
{
    GPtrArray *found = g_ptr_array_new();
    for (guint i = 0; i < all->len; i++) {
        if (is_word(all->pdata[i], topic)) {
            g_ptr_array_add(found, all->pdata[i]);
        }
    }
    for (guint i = 0; i < all->len; i++) {
        if (is_group(all->pdata[i], topic) && !is_word(all->pdata[i], topic)) {
            g_ptr_array_add(found, all->pdata[i]);
        }
    }
    return found;
}

/* "kohm": a unit with a prefix. */
static bool is_prefixed(const entry *e, const char *topic)
{
    double value;
    const char *why;
    g_autofree char *one = g_strconcat("1 ", topic, NULL);
    return strcmp(e->is.group, "unit") == 0 && g_str_has_suffix(topic, e->is.word) &&
           rgp_quantity_parse(one, e->is.word, &value, &why);
}

static void add_prefixed(GPtrArray *found, const GPtrArray *all, const char *topic)
{
    for (guint i = 0; i < all->len; i++) {
        if (is_prefixed(all->pdata[i], topic)) {
            g_ptr_array_add(found, all->pdata[i]);
        }
    }
}

static int refuse_topic(const command *self, const GPtrArray *all, const char *topic)
{
    g_autoptr(GPtrArray) names = g_ptr_array_new();
    for (guint i = 0; i < all->len; i++) {
        const entry *e = all->pdata[i];
        g_ptr_array_add(names, (void *)(uintptr_t)e->is.word);
        g_ptr_array_add(names, (void *)(uintptr_t)e->is.group);
    }
    const char *near = rgp_nearest_word(topic, (const char *const *)names->pdata, names->len);
    const char *elsewhere = rgp_word_elsewhere(topic);
    if (elsewhere) {
        return command_refuse(self, "the language has no word '%s': %s", topic, elsewhere);
    }
    return command_refuse(self,
                          near ? "the language has no word '%s'; did you mean '%s'?"
                               : "the language has no word '%s'; 'rigpulse words' lists them",
                          topic, near);
}

static int run_words(const command *self, int argc, char **argv)
{
    gboolean json = FALSE, syntax = FALSE;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a program to read", NULL},
        {"syntax", 0, 0, G_OPTION_ARG_NONE, &syntax,
         "a grammar for editors that colour text, to be saved as rig.tmLanguage.json", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 0, 1, &status)) {
        return status;
    }
    if (syntax) {
        return argc > 1 || json ? command_refuse(self, "--syntax is of all words, and is JSON: leave the rest out")
                                : (command_print_json(syntax_of_rigs()), EXIT_DONE);
    }
    g_autoptr(GPtrArray) texts = g_ptr_array_new_with_free_func(g_free);
    g_autoptr(GPtrArray) all = all_words(texts);
    g_autoptr(GPtrArray) found = argc > 1 ? words_about(all, argv[1]) : g_ptr_array_ref(all);
    if (found->len == 0) {
        add_prefixed(found, all, argv[1]);
    }
    if (found->len == 0) {
        return refuse_topic(self, all, argv[1]);
    }
    if (json) {
        json_t *list = json_array();
        for (guint i = 0; i < found->len; i++) {
            json_array_append_new(list, json_of(found->pdata[i]));
        }
        command_print_json(list);
    } else if (argc == 1) {
        print_contents(all);
    } else {
        for (guint i = 0; i < found->len; i++) {
            fputs(i > 0 ? "\n" : "", stdout);
            print_entry(found->pdata[i]);
        }
    }
    return EXIT_DONE;
}

const command command_words = {"words", "[TOPIC]", "explains the words of rig files", "rigpulse words despike",
                               run_words};
