/* The grammar of rig files by which editors colour them, made from the tables of words. It is in the JSON that many
 * editors read (`.tmLanguage.json`): rules of a regular expression and the sort of text that it finds. */
#include "syntax.h"

#include "rigpulse/catalog.h"
#include "rigpulse/lang.h"
#include "runtime/ports.h"

#include <glib.h>
#include <string.h>

/* In a group's table a word in capitals stands for names; of units capitals are the words. */
static bool stands_for_names(const char *word)
{
    return g_ascii_isupper(word[0]) && (g_ascii_isupper(word[1]) || word[1] == '_');
}

/* Longer words first: of "on" and "on-off" the longer one is tried first. */
static gint by_length(gconstpointer a, gconstpointer b)
{
    const char *const *one = a, *const *other = b;
    const size_t first = strlen(*one), second = strlen(*other);
    return first == second ? strcmp(*one, *other) : first < second ? 1 : -1;
}

/* "(?:turns|turn|deg)"; marks are set off. */
static char *alternatives(GPtrArray *words)
{
    g_autoptr(GString) all = g_string_new("(?:");
    g_ptr_array_sort(words, by_length);
    for (guint i = 0; i < words->len; i++) {
        g_autofree char *plain = g_regex_escape_string(words->pdata[i], -1);
        g_string_append_printf(all, "%s%s", i > 0 ? "|" : "", plain);
    }
    return g_strdup(g_string_append(all, ")")->str);
}

static void add_word(GPtrArray *to, const char *word)
{
    if (word && *word) {
        g_ptr_array_add(to, (void *)(uintptr_t)word);
    }
}

/* The words of a group, and those that its settings begin with. `marks`: those that are no letters, else those that
 * are. */
static GPtrArray *words_of(const char *group, bool marks)
{
    GPtrArray *words = g_ptr_array_new();
    rgp_word is;
    rgp_word_setting setting;
    for (uint32_t i = 0; rgp_word_at(i, &is); i++) {
        if (strcmp(is.group, group) != 0 || stands_for_names(is.word) || !g_ascii_isalpha(*is.word) != marks) {
            continue;
        }
        add_word(words, is.word);
        for (uint32_t k = 0; rgp_word_setting_at(i, k, &setting); k++) {
            add_word(words, setting.word);
        }
    }
    return words;
}

static void add_terminals(GPtrArray *to, const rgp_terminal *t)
{
    for (uint32_t i = 0; i < RGP_KIND_TERMINALS_MAX && t[i].word; i++) {
        add_word(to, t[i].word);
    }
}

static void add_settings(GPtrArray *to, const rgp_setting *s)
{
    for (uint32_t i = 0; i < RGP_KIND_SETTINGS_MAX && s[i].word; i++) {
        add_word(to, s[i].word);
    }
}

static void add_words_of_port(GPtrArray *words, const rgp_catalog *catalog)
{
    for (uint32_t i = 0; catalog->mechanism[i]; i++) {
        const rgp_mechanism_kind *k = catalog->mechanism[i];
        add_word(words, k->word);
        add_settings(words, k->setting);
        add_terminals(words, k->input);
        add_terminals(words, k->output);
        add_terminals(words, k->disturbance);
    }
    for (uint32_t i = 0; catalog->sensor[i]; i++) {
        add_word(words, catalog->sensor[i]->word);
        add_settings(words, catalog->sensor[i]->setting);
        add_terminals(words, catalog->sensor[i]->disturbance);
    }
    for (uint32_t i = 0; catalog->actuator && catalog->actuator[i]; i++) {
        add_word(words, catalog->actuator[i]->word);
        add_settings(words, catalog->actuator[i]->setting);
    }
}

static GPtrArray *words_of_hookups(void)
{
    GPtrArray *words = words_of("hookup", false);
    for (const rgp_catalog *c = rgp_ports_catalog(); c; c = c->next) {
        add_words_of_port(words, c);
    }
    return words;
}

/* A rule that gives each of its marked parts, from the first on, a sort of text. */
static void add_rule(json_t *to, const char *expression, const char *first, const char *second)
{
    json_t *parts = json_pack("{s:{s:s}}", "1", "name", first);
    if (second) {
        json_object_set_new(parts, "2", json_pack("{s:s}", "name", second));
    }
    json_array_append_new(to, json_pack("{s:s, s:o}", "match", expression, "captures", parts));
}

static void add_words(json_t *to, GPtrArray *words, const char *sort)
{
    g_autofree char *any = alternatives(words);
    g_autofree char *expression = g_strdup_printf("(?<![\\w.])(%s)(?!\\w)", any);
    add_rule(to, expression, sort, NULL);
    g_ptr_array_unref(words);
}

/* Those whose form goes on with NAME declare it. */
static void add_statements(json_t *to)
{
    g_autoptr(GPtrArray) declaring = g_ptr_array_new(), all = g_ptr_array_new();
    rgp_word is;
    for (uint32_t i = 0; rgp_word_at(i, &is); i++) {
        if (is.role) {
            add_word(g_str_has_prefix(is.form + strlen(is.word), " NAME") ? declaring : all, is.word);
        }
    }
    g_autofree char *names = alternatives(declaring), *others = alternatives(all);
    g_autofree char *named = g_strdup_printf("^(%s)(?:\\s+([A-Za-z_]\\w*)|(?!\\w))", names);
    g_autofree char *plain = g_strdup_printf("^(%s)(?!\\w)", others);
    add_rule(to, named, "keyword.control.rig", "entity.name.rig");
    add_rule(to, plain, "keyword.control.rig", NULL);
}

/* A number with its unit: "3.5 cm", "20 %/cm". */
static void add_quantities(json_t *to)
{
    GPtrArray *words = g_ptr_array_new();
    rgp_word is;
    for (uint32_t i = 0; rgp_word_at(i, &is); i++) {
        if (strcmp(is.group, "unit") == 0) {
            add_word(words, is.word);
            add_word(words, is.form);
        }
    }
    g_autofree char *any = alternatives(words);
    g_autofree char *one = g_strdup_printf("(?:[nuµμmckM]?%s[2-9]?)", any);
    g_autofree char *expression = g_strdup_printf(
        "(?<!\\w)(?<!\\w\\.)(\\d+(?:\\.\\d+)?(?:[eE][-+]?\\d+)?)(?:\\s*(%s(?:[/*]%s)*)(?!\\w))?", one, one);
    add_rule(to, expression, "constant.numeric.rig", "support.constant.unit.rig");
    g_ptr_array_unref(words);
}

json_t *syntax_of_rigs(void)
{
    json_t *patterns = json_array();
    add_rule(patterns, "(#.*)$", "comment.line.rig", NULL);
    add_rule(patterns, "(\"[^\"]*\")", "string.quoted.double.rig", NULL);
    add_statements(patterns);
    add_quantities(patterns);
    static const struct {
        const char *group, *sort;
    } sorts[] = {
        {"stage", "support.function.rig"},    {"action", "keyword.other.rig"},
        {"step", "keyword.other.rig"},        {"loop", "keyword.other.rig"},
        {"sensor", "storage.modifier.rig"},   {"actuator", "storage.modifier.rig"},
        {"detector", "keyword.operator.rig"}, {"operator", "keyword.operator.rig"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(sorts); i++) {
        add_words(patterns, words_of(sorts[i].group, false), sorts[i].sort);
    }
    add_words(patterns, words_of_hookups(), "support.type.rig");
    g_autoptr(GPtrArray) marks = words_of("operator", true);
    g_autofree char *any = alternatives(marks);
    g_autofree char *expression = g_strdup_printf("(%s|\\||\\.\\.)", any);
    add_rule(patterns, expression, "keyword.operator.rig", NULL);
    return json_pack("{s:s, s:s, s:[s], s:o}", "name", "rig file", "scopeName", "source.rig", "fileTypes", "rig",
                     "patterns", patterns);
}
