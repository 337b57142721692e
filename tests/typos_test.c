/* Typing errors, by chance, in examples chosen by chance: never a crash, and either a rig that runs or a
 * message. In one process, under the sanitizers too. */
#include "support.h"

#include "sim/sim.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

#define TYPOS 20000u
#define TICKS 6u

static uint64_t chance = 20261128u;

/* Knuth's MMIX generator (1999), its upper half. */
static uint32_t drawn(uint32_t below)
{
    chance = chance * 6364136223846793005u + 1442695040888963407u;
    return (uint32_t)(chance >> 33) % below;
}

/* Left out, doubled, turned round, another one, or another one more. */
static void type_wrong(GString *text)
{
    static const char others[] = "abeilnorst019 .,:;|()+-*/=#\"%_<>\n\t\xC2\xB0\xB5";
    const gsize at = drawn((uint32_t)text->len - 1u);
    const char other = others[drawn(sizeof others - 1u)], first = text->str[at];
    switch (drawn(6)) {
    case 0:
        g_string_erase(text, (gssize)at, 1);
        break;
    case 1:
        g_string_insert_c(text, (gssize)at, first);
        break;
    case 2:
        text->str[at] = text->str[at + 1];
        text->str[at + 1] = first;
        break;
    case 3:
        text->str[at] = other;
        break;
    case 4:
        g_string_insert_c(text, (gssize)at, other);
        break;
    default:
        g_string_truncate(text, text->len - drawn((uint32_t)MIN(text->len, 12u)));
    }
}

static void tick_a_little(const rgp_rig *rig)
{
    rgp_engine engine;
    const rgp_image_header *image = rig->image;
    void *memory = calloc(1, image->memory);
    assert_int_equal(rgp_engine_open(&engine, image, rig->image_size, memory, image->memory), RGP_OK);
    for (uint32_t n = 0; n < TICKS; n++) {
        for (uint16_t i = 0; i < rgp_image_count(image, RGP_SECTION_SENSORS); i++) {
            const rgp_sample sample = {.time_us = n * image->tick_us,
                                       .raw = (int32_t)drawn(5000),
                                       .quality = drawn(9) ? RGP_GOOD : RGP_MISSING};
            assert_int_equal(rgp_engine_sense(&engine, i, &sample), RGP_OK);
        }
        rgp_engine_step(&engine, n * image->tick_us);
    }
    free(memory);
}

static void test_typos(void **unused)
{
    (void)unused;
    static const char *const folders[] = {RIGPULSE_SOURCE "/examples", RIGPULSE_SOURCE "/examples/poor"};
    g_autoptr(GPtrArray) texts = g_ptr_array_new_with_free_func(g_free);
    const char *asked = g_getenv("RIGPULSE_TYPOS"), *seed = g_getenv("RIGPULSE_SEED");
    const uint64_t typos = asked ? strtoull(asked, NULL, 10) : OFTEN(TYPOS);
    uint64_t sound = 0, warned = 0;
    chance += seed ? strtoull(seed, NULL, 10) : 0;
    for (size_t i = 0; i < 2; i++) {
        g_autoptr(GPtrArray) names = list_files(folders[i], ".rig");
        for (guint k = 0; k < names->len; k++) {
            g_ptr_array_add(texts, get_file(folders[i], names->pdata[k]));
        }
    }
    for (uint64_t round = 0; round < typos; round++) {
        g_autoptr(GString) text = g_string_new(texts->pdata[drawn(texts->len)]);
        for (uint32_t i = 1 + drawn(3); i > 0; i--) {
            type_wrong(text);
        }
        rgp_rig *rig = rgp_rig_compile("typed.rig", text->str, text->len, rgp_sim_catalog());
        assert_non_null(rig);
        assert_true(g_utf8_validate(rgp_rig_report(rig), -1, NULL));
        if ((rig->image == NULL) != (rig->errors > 0)) {
            fail_msg("%u errors, and %s image:\n%s", rig->errors, rig->image ? "an" : "no", text->str);
        }
        if (rig->image) {
            tick_a_little(rig);
            sound++;
            warned += rig->warnings > 0;
        }
        rgp_rig_free(rig);
    }
    print_message("%" PRIu64 " typed wrong: %" PRIu64 " are sound all the same, %" PRIu64 " of them with warnings\n",
                  typos, sound, warned);
}

/* The words of the language of four letters and more, each once. */
static GHashTable *long_words(void)
{
    GHashTable *all = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    rgp_word word;
    for (uint32_t i = 0; rgp_word_at(i, &word); i++) {
        rgp_word_setting setting;
        g_autoptr(GString) text = g_string_new(word.word);
        g_string_append_printf(text, " %s", word.form);
        for (uint32_t k = 0; rgp_word_setting_at(i, k, &setting); k++) {
            g_string_append_printf(text, " %s", setting.word);
        }
        g_auto(GStrv) parts = g_strsplit_set(text->str, " -,|()[]", -1);
        for (char **p = parts; *p && !g_str_equal(word.group, "unit") && !g_str_equal(word.group, "term"); p++) {
            if (strlen(*p) > 3 && g_ascii_islower(**p)) {
                g_hash_table_add(all, g_strdup(*p));
            }
        }
    }
    return all;
}

typedef struct swaps {
    GHashTable *words, *done; /* "STATEMENT WORD": each is tried once */
    uint32_t tried, several, untold;
} swaps;

/* The second and the third letter change places; of "tt" the last two do. */
static bool swap_letters(char *word, size_t length)
{
    const size_t at = word[1] != word[2] ? 1 : length - 2;
    const char first = word[at];
    word[at] = word[at + 1];
    word[at + 1] = first;
    return word[at] != word[at + 1];
}

static void try_swap(swaps *s, const char *text, size_t at, const char *word)
{
    g_autofree char *wrong = g_strdup(text);
    if (!swap_letters(wrong + at, strlen(word))) {
        return;
    }
    rgp_rig *rig = rgp_rig_compile("typed.rig", wrong, strlen(wrong), rgp_sim_catalog());
    bool told = false;
    for (uint32_t i = 0; i < rig->messages; i++) {
        const rgp_message *m = &rig->message[i];
        told |= !m->warning && (strstr(m->text, word) || (m->advice && strstr(m->advice, word)));
    }
    s->tried += rig->errors > 0;
    s->several += rig->errors > 1;
    s->untold += rig->errors > 0 && !told;
    rgp_rig_free(rig);
}

static void try_line(swaps *s, const char *text, const char *line, const char *end)
{
    g_autofree char *first = g_strndup(line, strspn(line, "abcdefghijklmnopqrstuvwxyz"));
    for (const char *at = line; at < end;) {
        const size_t length = strspn(at, "abcdefghijklmnopqrstuvwxyz_");
        g_autofree char *word = g_strndup(at, length), *key = g_strconcat(first, " ", word, NULL);
        if (length > 3 && g_hash_table_contains(s->words, word) && g_hash_table_add(s->done, g_strdup(key))) {
            try_swap(s, text, (size_t)(at - text), word);
        }
        at += MAX(length, 1u);
    }
}

/* Two letters that have changed places in a word of the language are one mistake, and its message has the word. In a
 * few places it can only be guessed: a name that is such a word, too. */
static void test_swapped_letters(void **unused)
{
    (void)unused;
    g_autoptr(GPtrArray) names = list_files(RIGPULSE_SOURCE "/examples", ".rig");
    swaps s = {.words = long_words(), .done = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL)};
    for (guint i = 0; i < names->len; i++) {
        g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", names->pdata[i]);
        for (const char *line = text; *line; line += strcspn(line, "\n"), line += *line == '\n') {
            try_line(&s, text, line, line + strcspn(line, "#\n"));
        }
    }
    print_message("%u words with two letters swapped: %u with several messages, %u without the word\n", s.tried,
                  s.several, s.untold);
    assert_true(s.tried > 150);
    assert_in_range(s.several, 0, s.tried / 40);
    assert_in_range(s.untold, 0, s.tried / 20);
    g_hash_table_unref(s.words);
    g_hash_table_unref(s.done);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_swapped_letters), cmocka_unit_test(test_typos)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
