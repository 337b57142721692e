/* The language: its messages as data, its documents as examples, and whatever bytes come. */
#include "support.h"

#include "rigpulse/engine.h"
#include "rigpulse/version.h"

#include "image/ops.h"
#include "image/settings.h"
#include "lang/vocabulary/words.h"
#include "explain/disassembly.h"
#include "sim/sim.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* The rig above each case of messages.rig; the case's own lines begin behind it. */
static const char head[] = "rig t\n"
                           "tick 20 ms\n"
                           "sensor level counts 0..4095, every 100 ms\n"
                           "actuator pump percent 0..100, rest at 0\n"
                           "actuator lamp switch, rest at off\n"
                           "param shallow = 3 cm in 1..6 cm\n"
                           "signal depth = level | table 312: 0 cm, 3020: 12 cm, clamped\n"
                           "bands tide = depth: low below shallow, mid, high above 9 cm; margin 0.4 cm\n";
#define HEAD_LINES 8u

static char *messages_of(const char *text, size_t length)
{
    GString *all = g_string_new(NULL);
    rgp_rig *rig = rgp_rig_compile("x", text, length, rgp_sim_catalog());
    assert_non_null(rig);
    for (uint32_t i = 0; i < rig->messages; i++) {
        const rgp_message *m = &rig->message[i];
        if (m->line <= HEAD_LINES && strncmp(m->text, "nothing ", 8) == 0) {
            continue; /* few cases use all that the head declares */
        }
        g_string_append_printf(all, "> %d:%u %s: %s%s%s\n", (int)m->line - (int)HEAD_LINES, m->column,
                               m->warning ? "warning" : "error", m->text, m->advice ? " | " : "",
                               m->advice ? m->advice : "");
    }
    assert_int_equal(rig->image == NULL, rig->errors > 0);
    rgp_rig_report(rig);
    rgp_rig_free(rig);
    return g_string_free(all, FALSE);
}

/* Cases of messages.rig: "=== name", the lines, then "> LINE:COLUMN error: what | advice" for each message. */
static void test_messages(void **unused)
{
    (void)unused;
    g_autofree char *file = get_file(RIGPULSE_SOURCE "/tests", "messages.rig");
    g_auto(GStrv) cases = g_strsplit(file, "=== ", -1);
    g_autoptr(GString) made = g_string_new(cases[0]);
    for (char **c = cases + 1; *c; c++) {
        const char *body = strchr(*c, '\n') + 1;
        const char *expected = *body == '>'          ? body
                               : strstr(body, "\n>") ? strstr(body, "\n>") + 1
                                                     : body + strlen(body);
        g_autofree char *text = g_strdup_printf("%s%.*s", head, (int)(expected - body), body);
        g_autofree char *got = messages_of(text, strlen(text));
        g_string_append_printf(made, "=== %.*s%s", (int)(expected - *c), *c, got);
    }
    if (getenv("RIGPULSE_REWRITE")) {
        put_file(RIGPULSE_SOURCE "/tests", "messages.rig", made->str, -1);
        return;
    }
    g_auto(GStrv) want = g_strsplit(file, "\n", -1), is = g_strsplit(made->str, "\n", -1);
    for (size_t i = 0; want[i] || is[i]; i++) {
        assert_non_null(is[i]);
        assert_non_null(want[i]);
        assert_string_equal(is[i], want[i]);
    }
}

static void test_odd_files(void **unused)
{
    (void)unused;
#define SHORT_TICK "rig x\ntick 100 us\nsensor s counts 0..9\nsignal a = s | smooth "
    char *huge = g_strnfill(1 << 20, 'x');
    const struct {
        const char *text;
        size_t length;
        const char *says;
    } cases[] = {
        {"", 0, "there is nothing in this file"},
        {"\n\n# only a comment", 18, "there is nothing in this file"},
        {"rig x\ntick 5 ms", 15, ""},
        {"rig \0x", 6, "this is not a text file"},
        {"rig \xFF", 5, "this is not a text file"},
        {"tick 5 ms\n", 10, "this rig has no name"},
        {"rig x\n", 6, "this rig states no tick"},
        {"rig x\ntick 1 us\n", 16, "the tick must be from 50 us to 60 s"},
        {SHORT_TICK "10001 s\n", sizeof SHORT_TICK "10001 s", "the time constant of 'smooth' is 100.01 million ticks"},
        {SHORT_TICK "10000 s\n", sizeof SHORT_TICK "10000 s", ""},
        {huge, 1 << 20, "this line has 1048576 bytes (limit 65536)"},
        {huge, 60000, "this name has 60000 characters (limit 200)"},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *got = messages_of(cases[i].text, cases[i].length);
        if (*cases[i].says ? !strstr(got, cases[i].says) : *got) {
            fail_msg("case %zu says '%s'", i, got);
        }
    }
    g_free(huge);
}

/* At most 20 are shown, all are counted. */
static void test_many_errors(void **unused)
{
    (void)unused;
    GString *text = g_string_new(head);
    for (int i = 0; i < 50; i++) {
        g_string_append_printf(text, "signal s%d = nobody%d\n", i, i);
    }
    rgp_rig *rig = rgp_rig_compile("x", text->str, text->len, NULL);
    assert_int_equal(rig->errors, 50);
    assert_int_equal(rig->messages, RGP_MESSAGES_MAX);
    assert_non_null(strstr(rgp_rig_report(rig), "x: 30 more errors\n"));
    rgp_rig_free(rig);
    g_string_free(text, TRUE);
}

/* `count` times a piece of text between a head and a tail, compiled in the sensor's rig. */
static char *messages_of_many(const char *first, const char *piece, unsigned count, const char *tail)
{
    g_autoptr(GString) text = g_string_new("rig a\ntick 20 ms\nsensor s counts 0..100\n");
    g_string_append(text, first);
    for (unsigned i = 0; i < count; i++) {
        g_string_append(text, piece);
    }
    g_string_append(text, tail);
    return messages_of(text->str, text->len);
}

/* Long expressions are taken up to a stated limit, whatever joins them; nothing overflows the stack. */
static void test_long_expressions(void **unused)
{
    (void)unused;
    static const struct {
        const char *head, *piece, *tail;
    } cases[] = {{"signal a = s", " + s", ""},
                 {"signal a = s", " * 2", ""},
                 {"signal a = s", " | smooth 1 s", ""},
                 {"signal a = s above 1", " and s above 1", ""},
                 {"on start", " or s goes above 3", "\n    mark x"}};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *sound = messages_of_many(cases[i].head, cases[i].piece, 1000, cases[i].tail);
        g_autofree char *refused = messages_of_many(cases[i].head, cases[i].piece, 2500, cases[i].tail);
        assert_string_equal(sound, "");
        assert_says(refused, "this has too many operators and stages (limit 1000)");
    }
    g_autofree char *deep = messages_of_many("signal a = ", "(", 65, "s");
    assert_says(deep, "nested too deep (limit 64)");
}

/* Signals may need one another as deep as there are names, in whatever order they stand; a circle of many is told in
 * short. */
static void test_long_chains_of_signals(void **unused)
{
    (void)unused;
    for (int circle = 0; circle < 2; circle++) {
        g_autoptr(GString) text = g_string_new("rig a\ntick 20 ms\nsensor s counts 0..100\n");
        for (unsigned i = 0; i < 3900; i++) {
            g_string_append_printf(text, "signal x%u = x%u + 1\n", i, i + 1);
        }
        g_string_append(text, circle ? "signal x3900 = x0\n" : "signal x3900 = s\n");
        if (circle) {
            g_autofree char *got = messages_of(text->str, text->len);
            assert_says(got, "'x0' needs itself: x0 <- ... <- x3889 <- ");
        } else {
            bench b;
            bench_open(&b, text->str);
            bench_tick(&b, 0, 7);
            assert_near((double)bench_value(&b, "x0").value, 3907.0, 0.0);
            bench_close(&b);
        }
    }
}

/* Every operation that a person can meet has a row in the lists of words. */
static void test_every_operation_has_a_word(void **unused)
{
    (void)unused;
    for (uint32_t op = 0; op < RGP_OPS; op++) {
        bool named = false;
        for (uint32_t i = 0; i < stage_words_count; i++) {
            named |= stage_words[i].op == op;
        }
        for (uint32_t i = 0; i < operator_words_count; i++) {
            named |= operator_words[i].op == op;
        }
        for (uint32_t i = 0; i < detector_words_count; i++) {
            named |= detector_words[i].op == op;
        }
        for (uint32_t i = 0; i < loop_lines_count; i++) {
            named |= loop_lines[i].op == op;
        }
        if (!named) {
            fail_msg("operation %u has no word", op);
        }
    }
}

/* Of each number in the tables there is room between its limits, and what it is by itself lies in it. */
static void test_settings_of_words(void **unused)
{
    (void)unused;
    rgp_word word;
    rgp_word_setting setting;
    uint32_t settings = 0;
    for (uint32_t i = 0; rgp_word_at(i, &word); i++) {
        for (uint32_t k = 0; rgp_word_setting_at(i, k, &setting); k++, settings++) {
            assert_true(setting.least < setting.greatest);
            assert_true(isnan(setting.initial) ||
                        (setting.initial >= setting.least && setting.initial <= setting.greatest) ||
                        setting.initial == 0.0);
        }
    }
    assert_true(settings > 60);
}

static char *in_a_table(const char *text)
{
    g_auto(GStrv) parts = g_strsplit(text, "|", -1);
    return g_strjoinv("\\|", parts);
}

/* The lines that the examples in the tables speak of. */
static const char *const around[] = {"rig words",
                                     "tick 20 ms",
                                     "unit portions",
                                     "sensor level counts 0..4095",
                                     "sensor gate switch",
                                     "sensor far_gate switch",
                                     "sensor top switch",
                                     "sensor armed switch",
                                     "sensor gyro counts -4000..4000",
                                     "sensor vane deg 0..360",
                                     "sensor flight us 0..60000",
                                     "sensor ax mg -2000..2000",
                                     "sensor ay mg -2000..2000",
                                     "sensor az mg -2000..2000",
                                     "sensor left counts 0..99",
                                     "sensor right counts 0..99",
                                     "actuator pump percent 0..100, rest at 0",
                                     "actuator span percent -100..100, rest at 0",
                                     "actuator relay switch, rest at off",
                                     "actuator lamp switch, rest at off",
                                     "actuator arm deg -90..90, rest at 0, settle 300 ms",
                                     "param shallow = 3 cm in 1..6 cm",
                                     "param goal = 50 mm in 0..100 mm",
                                     "signal depth = level | table 312: 0 cm, 3020: 12 cm",
                                     "bands tide = depth: low below 3 cm, mid, high above 9 cm; margin 0.4 cm",
                                     "signal turning = gyro * 0.07 deg/s/counts",
                                     "signal turned = turning | accumulate",
                                     "signal lean = ax | tilt roll with ay, az",
                                     "signal distance = flight | echo far 400 cm",
                                     "signal boats = gate | count",
                                     "signal place = vane | line 1 mm/deg, 0 mm",
                                     "mode harbour: day, night",
                                     "cue boat_through",
                                     "sequence signal_boat\n    relay on",
                                     "sequence other\n    part closing\n    dwell 1 s"};

/* "signal depth": what a line declares; of "rig" and "tick" that word alone. */
static bool declares_the_same(const char *a, const char *b)
{
    const size_t word = strcspn(a, " ");
    size_t length = a[word] ? word + 1 + strcspn(a + word + 1, " =:\n") : word;
    length = strncmp(a, "rig ", 4) == 0 || strncmp(a, "tick ", 5) == 0 ? word : length;
    return strncmp(a, b, length) == 0 && (!b[length] || strchr(" =:\n", b[length]));
}

/* The lines that an example speaks of, without the one that it declares anew. */
static GString *lines_around(const rgp_word *w)
{
    GString *text = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(around); i++) {
        if (strcmp(w->group, "action") == 0 || !declares_the_same(w->example, around[i])) {
            g_string_append_printf(text, "%s\n", around[i]);
        }
    }
    return text;
}

/* An example with the lines above and below it that its group needs. */
static char *example_in_place(const rgp_word *w)
{
    static const struct {
        const char *group, *word, *above, *below;
    } frames[] = {
        {"action", "holdoff", "on start\n    lamp on\n    ", ""},
        {"action", NULL, "on start\n    ", ""},
        {"step", "part", "sequence q\n    ", "\n    lamp off"},
        {"step", "go", "sequence q\n    part closing\n    dwell 1 s\n    ", ""},
        {"step", "cycle", "sequence q\n    ", "\n        lamp on\n        dwell 1 s"},
        {"step", NULL, "sequence q\n    ", "\n    dwell 1 s"},
        {"loop", "pid", "loop bath: depth at shallow with pump\n    ", ""},
        {"loop", "on-off", "loop bath: depth at shallow with pump\n    ", ""},
        {"loop", "nudge", "loop bath: depth at shallow with pump\n    ", ""},
        {"loop", NULL, "loop bath: depth at shallow with pump\n    pid kp 20, ki 2, kd 0\n    ", ""},
        {"statement", "loop", "", "\n    pid kp 20, ki 2, kd 0"},
        {"statement", "sequence", "", "\n    relay on"},
        {NULL, NULL, "", ""},
    };
    GString *text = lines_around(w);
    size_t f = 0;
    while (frames[f].group &&
           !(strcmp(frames[f].group, w->group) == 0 && (!frames[f].word || strcmp(frames[f].word, w->word) == 0))) {
        f++;
    }
    const bool rule = strncmp(w->example, "on ", 3) == 0 || strncmp(w->example, "while ", 6) == 0;
    g_string_append_printf(text, "%s%s%s%s\n", frames[f].above, w->example, frames[f].below,
                           rule ? "\n    relay on" : "");
    return g_string_free(text, FALSE);
}

/* Each example in the tables is what one may write. */
static void test_examples_of_words(void **unused)
{
    (void)unused;
    rgp_word word;
    for (uint32_t i = 0; rgp_word_at(i, &word); i++) {
        if (strcmp(word.group, "unit") == 0 || strcmp(word.group, "term") == 0 || strcmp(word.group, "hookup") == 0) {
            continue;
        }
        g_autofree char *text = example_in_place(&word);
        rgp_rig *rig = rgp_rig_compile("test.rig", text, strlen(text), NULL);
        assert_non_null(rig);
        if (rig->errors > 0) {
            g_autofree char *got = messages_of(text, strlen(text));
            fail_msg("the example of %s '%s' is wrong: %s", word.group, word.word, got);
        }
        rgp_rig_free(rig);
    }
}

static uint32_t claims_of(const char *text)
{
    rgp_rig *rig = rgp_rig_compile("test.rig", text, strlen(text), NULL);
    assert_non_null(rig);
    assert_non_null(rig->image);
    const uint32_t claims = rgp_image_count(rig->image, RGP_SECTION_CLAIMS);
    rgp_rig_free(rig);
    return claims;
}

/* A statement's row says that it claims an actuator when the image that is made of it has one more claim. */
static void test_statements_that_claim(void **unused)
{
    (void)unused;
    for (statement_id id = STATEMENT_SENSOR; id < STATEMENTS; id++) {
        const statement_word *row = &statement_words[id];
        const rgp_word word = {"statement", row->word, row->form, row->help, row->example, NULL, NULL};
        g_autofree char *with = example_in_place(&word);
        g_autoptr(GString) without = lines_around(&word);
        if (row->role != ROLE_DECLARES && (claims_of(with) > claims_of(without->str)) != statement_claims(id)) {
            fail_msg("'%s' %s", row->word, statement_claims(id) ? "claims nothing" : "claims an actuator");
        }
    }
}

/* A compiled example, and a copy of the settings of its operation. */
typedef struct sample_step {
    rgp_rig *rig;
    uint32_t op;
    unsigned char config[1024];
} sample_step;

static void open_sample(sample_step *s, const char *group, const word_row *row, uint32_t op)
{
    const rgp_word word = {group, row->word, row->form, row->help, row->example, NULL, NULL};
    g_autofree char *text = example_in_place(&word);
    s->rig = rgp_rig_compile("test.rig", text, strlen(text), NULL);
    assert_non_null(s->rig);
    assert_non_null(s->rig->image);
    s->op = op;
    rgp_decoded step;
    rgp_steps all = rgp_steps_of(s->rig->image);
    while (rgp_steps_next(&all, &step) && step.op != op) {
    }
    assert_int_equal(step.op, op);
    const uint32_t bytes = rgp_ops[op].config_bytes(rgp_decoded_config(&step));
    assert_true(bytes <= sizeof s->config);
    memcpy(s->config, rgp_decoded_config(&step), bytes);
}

/* The fault of that setting with that number in the sample; NULL: there is none, or it is another's. */
static const char *fault_with(const sample_step *s, const rgp_op_setting *is, bool whole, double number)
{
    unsigned char config[sizeof s->config];
    const float value = (float)number;
    const uint32_t count = whole ? (uint32_t)(int64_t)number : 0;
    memcpy(config, s->config, sizeof config);
    memcpy(config + is->offset, whole ? (const void *)&count : (const void *)&value, 4);
    const char *fault = rgp_ops[s->op].fault(config);
    return fault && strncmp(fault, is->name, strlen(is->name)) == 0 ? fault : NULL;
}

/* The block takes what the table tells, up to both ends, and nothing beyond; `far` lies beyond `near`. */
static void insist_on_limits(const sample_step *s, uint16_t offset, bool whole)
{
    const rgp_op_setting *is = rgp_op_setting_at(s->op, offset);
    const double step = whole ? (is->odd ? 2.0 : 1.0) : 0.0;
    const bool free_below = is->low <= -RGP_ANYTHING || (whole && is->low == 0.0f),
               free_above = is->high >= RGP_ANYTHING;
    const double low = (double)is->low, high = (double)is->high;
    const double first = is->above && !whole ? (double)nextafterf(is->low, INFINITY) : low + (is->above ? step : 0.0);
    const bool by_another = strcmp(is->name, "far") == 0;
    if ((!free_below && !by_another && fault_with(s, is, whole, first)) ||
        (!free_above && fault_with(s, is, whole, high))) {
        fail_msg("the table allows both ends of '%s', and the block does not: %s", is->name,
                 fault_with(s, is, whole, high));
    }
    const double below = whole ? low - 1.0 : is->above ? low : (double)nextafterf(is->low, -INFINITY);
    const double beyond = whole ? high + 1.0 : (double)nextafterf(is->high, INFINITY);
    if ((!free_below && !fault_with(s, is, whole, below)) || (!free_above && !fault_with(s, is, whole, beyond)) ||
        (is->not_zero && !fault_with(s, is, whole, 0.0)) || (!whole && !fault_with(s, is, whole, (double)NAN)) ||
        (is->odd && !fault_with(s, is, whole, low + 1.0))) {
        fail_msg("the block allows more of '%s' than the table", is->name);
    }
}

static void test_limits_of_words(void **unused)
{
    (void)unused;
    sample_step s;
    for (uint32_t i = 0; i < stage_words_count; i++) {
        const stage_word *w = &stage_words[i];
        const word_row row = {w->word, w->form, w->help, w->example, NULL};
        open_sample(&s, "stage", &row, w->op);
        for (uint32_t k = 0; k < STAGE_SETTINGS_MAX && w->setting[k].name; k++) {
            const stage_setting *is = &w->setting[k];
            if (is->shape == SETTING_COUNT || is->shape == SETTING_NUMBER) {
                insist_on_limits(&s, is->offset, is->shape == SETTING_COUNT);
            }
        }
        rgp_rig_free(s.rig);
    }
    for (uint32_t i = 0; i < detector_words_count; i++) {
        const detector_word *w = &detector_words[i];
        const word_row row = {w->word, w->form, w->help, w->example, NULL};
        open_sample(&s, "detector", &row, w->op);
        for (uint32_t k = 0; k < DETECTOR_SETTINGS_MAX && w->setting[k].name; k++) {
            insist_on_limits(&s, w->setting[k].offset, false);
        }
        rgp_rig_free(s.rig);
    }
}

/* docs/language.md: its lists are those of the language, its examples compile. */
static void test_language_page(void **unused)
{
    (void)unused;
    g_autofree char *page = get_file(RIGPULSE_SOURCE "/docs", "language.md");
    rgp_word word;
    for (uint32_t i = 0; rgp_word_at(i, &word); i++) {
        g_autofree char *form = in_a_table(word.form), *example = in_a_table(word.example);
        g_autofree char *row = strcmp(word.group, "unit") == 0
                                   ? g_strdup_printf("| `%s` | %s | %s | %s |", word.word, form, example, word.help)
                                   : g_strdup_printf("| `%s` | %s | `%s` |", form, word.help, example);
        if (getenv("RIGPULSE_REWRITE")) {
            puts(row);
        } else if (!strstr(page, row)) {
            fail_msg("docs/language.md lacks the row: %s", row);
        }
    }
    uint32_t examples = 0;
    for (const char *at = strstr(page, "```rig\n"); at; at = strstr(at + 1, "```rig\n")) {
        const char *from = at + 7, *end = strstr(from, "```");
        const bool whole = strncmp(from, "rig ", 4) == 0;
        g_autofree char *text = g_strdup_printf("%s%.*s", whole ? "" : head, (int)(end - from), from);
        g_autofree char *got = messages_of(text, strlen(text));
        if (*got) {
            fail_msg("an example in docs/language.md is wrong: %s", got);
        }
        examples++;
    }
    assert_true(examples >= 5);
}

static void need_row(const char *page, const char *word)
{
    g_autofree char *quoted = g_strdup_printf("`%s`", word);
    if (!strstr(page, quoted)) {
        fail_msg("docs/language.md does not speak of %s in its hook-ups", quoted);
    }
}

/* The page names every mechanism, setting, quantity and disturbance that can be hooked up. */
static void test_hookup_page(void **unused)
{
    (void)unused;
    g_autofree char *page = get_file(RIGPULSE_SOURCE "/docs", "language.md");
    const char *from = strstr(page, "## The hook-up");
    assert_non_null(from);
    const rgp_catalog *catalog = rgp_sim_catalog();
    for (uint32_t i = 0; catalog->mechanism[i]; i++) {
        const rgp_mechanism_kind *kind = catalog->mechanism[i];
        need_row(from, kind->word);
        for (uint32_t k = 0; kind->setting[k].word; k++) {
            need_row(from, kind->setting[k].word);
        }
        for (uint32_t k = 0; kind->output[k].word; k++) {
            need_row(from, kind->output[k].word);
        }
        for (uint32_t k = 0; kind->disturbance[k].word; k++) {
            need_row(from, kind->disturbance[k].word);
        }
    }
}

/* A port's catalogue is a stranger's: a unit in it that there is not is told where it is needed. */
static void test_unit_of_a_catalogue(void **unused)
{
    (void)unused;
    static const rgp_mechanism_kind pond = {.word = "pond", .setting = {{"deep", "furlongs", 1, 0, 9, false, ""}}};
    static const rgp_mechanism_kind *const kinds[] = {&pond, NULL};
    static const rgp_sensor_kind *const none[] = {NULL};
    const rgp_catalog catalog = {.port = "sim", .thing = "mechanism", .mechanism = kinds, .sensor = none};
    const char text[] = "rig x\ntick 20 ms\nsensor level counts 0..9\nhookup sim\n    pond p: deep 3 cm\n";
    rgp_rig *rig = rgp_rig_compile("x.rig", text, strlen(text), &catalog);
    assert_int_equal(rig->errors, 1);
    assert_non_null(strstr(rgp_rig_report(rig), "asks for 'furlongs' here, which is no unit"));
    rgp_rig_free(rig);
}

static void test_quantities(void **unused)
{
    (void)unused;
    const struct {
        const char *text, *unit;
        double value;
        bool sound;
    } cases[] = {
        {"3 cm", "mm", 30, true},       {"3cm", "cm", 3, true},
        {"0.5", "", 0.5, true},         {"7", "counts", 7, true},
        {"1 min", "s", 60, true},       {"36 km/h", "m/s", 10, true},
        {"20 degC", "degF", 68, true},  {"1 turn", "rad", 6.283185307, true},
        {"5", "cm", 0, false},          {"5 s", "cm", 0, false},
        {"cm", "cm", 0, false},         {"1e999 cm", "cm", 0, false},
        {"5 furlongs", "cm", 0, false}, {"2 kohm", "V/A", 2000, true},
        {"1 V/ohm", "mA", 1000, true},  {"14 deg/deg/s", "1/s", 14, true},
        {"1 degC", "K", 0, false},      {"2 K", "degR", 3.6, true},
        {"6 1/min", "Hz", 0.1, true},   {"2 deg*s/deg", "s", 2, true},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        double value = 0.0;
        const char *why;
        assert_int_equal(rgp_quantity_parse(cases[i].text, cases[i].unit, &value, &why), cases[i].sound);
        assert_near(value, cases[i].value, 1e-8);
    }
}

/* Things of an image are found by their names; without its names it is as small as `check` says, and runs on. One of
 * another version is refused, and so is one that was cut off. */
static void test_names_of_an_image(void **unused)
{
    (void)unused;
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", "basin.rig");
    rgp_rig *rig = rgp_rig_compile("basin.rig", text, strlen(text), rgp_sim_catalog());
    g_autofree rgp_image_header *image = g_memdup2(rig->image, rig->image_size);
    assert_int_equal(rgp_image_find(image, RGP_FIND_SENSOR, "level"), 0);
    assert_int_equal(rgp_image_find(image, RGP_FIND_PARAM, "shallow"), 0);
    assert_int_equal(rgp_image_find(image, RGP_FIND_PARAM, "level"), -1);
    assert_int_equal(rgp_image_find(image, RGP_FIND_ACTUATOR, "no such"), -1);
    const int32_t pump = rgp_image_find(image, RGP_FIND_ACTUATOR, "pump");
    assert_int_equal(rgp_image_find(image, RGP_FIND_SLOT, "pump"), rgp_image_actuator_slot(image, (uint32_t)pump));
    const uint32_t bare = rgp_image_strip(image);
    assert_int_equal(image->size, bare);
    assert_int_equal(rgp_image_find(image, RGP_FIND_SENSOR, "level"), -1);
    assert_int_equal(rgp_image_strip(image), bare);
    g_autofree char *says = g_strdup_printf("(%u without names)", bare);
    called c = call_tool("/", "check " RIGPULSE_SOURCE "/examples/basin.rig");
    assert_says(c.out, says);
    call_done(&c);
    g_autofree void *memory = g_malloc0(image->memory);
    rgp_engine engine;
    assert_int_equal(rgp_engine_open(&engine, image, bare, memory, image->memory), RGP_OK);
    rgp_engine_step(&engine, 0);
    assert_int_equal(rgp_engine_open(&engine, image, bare - 8, memory, image->memory), RGP_E_SIZE);
    image->version++;
    image->checksum = rgp_image_checksum(image, bare);
    assert_int_equal(rgp_engine_open(&engine, image, bare, memory, image->memory), RGP_E_FORMAT);
    assert_int_equal(rgp_image_version_of(image, bare), RGP_IMAGE_VERSION + 1);
    assert_int_equal(rgp_image_version_of(text, 100), 0);
    assert_int_equal(rgp_version(), RGP_VERSION);
    rgp_rig_free(rig);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_names_of_an_image),
        cmocka_unit_test(test_messages),
        cmocka_unit_test(test_odd_files),
        cmocka_unit_test(test_many_errors),
        cmocka_unit_test(test_long_expressions),
        cmocka_unit_test(test_long_chains_of_signals),
        cmocka_unit_test(test_every_operation_has_a_word),
        cmocka_unit_test(test_examples_of_words),
        cmocka_unit_test(test_statements_that_claim),
        cmocka_unit_test(test_unit_of_a_catalogue),
        cmocka_unit_test(test_settings_of_words),
        cmocka_unit_test(test_limits_of_words),
        cmocka_unit_test(test_language_page),
        cmocka_unit_test(test_hookup_page),
        cmocka_unit_test(test_quantities),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
