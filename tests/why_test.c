/* Explanations: what they say agrees with what happened, in every tick of every example; what they print of a run whose
 * readings are known; what can be asked, and what cannot. */
#include "support.h"

#include "analysis/near.h"

#include <math.h>
#include <string.h>
#include <sys/stat.h>

/* ---- every tick of every example -------------------------------------------------------------------- */

/* A list of sides is true when all of them are, or when one is. */
static void check_sides(const rgp_reason *r, const char *name)
{
    const bool all = strstr(r->says->str, "all of these") != NULL,
               any = strstr(r->says->str, "at least one of these") != NULL;
    uint32_t yes = 0, no = 0;
    assert_true(r->says->len > 0 || r->part->len > 0);
    for (guint i = 0; i < r->part->len; i++) {
        const rgp_reason *part = r->part->pdata[i];
        yes += part->holds == RGP_HOLDS_YES;
        no += part->holds == RGP_HOLDS_NO;
        check_sides(part, name);
    }
    if ((all && (r->holds == RGP_HOLDS_YES) != (yes == r->part->len)) ||
        (any && (r->holds == RGP_HOLDS_NO) != (no == r->part->len))) {
        fail_msg("%s: '%s' is %d of %u yes and %u no", name, r->says->str, (int)r->holds, yes, no);
    }
}

static void check_rule(const rgp_why *why, uint32_t rule, const char *name)
{
    rgp_reason *r = rgp_why_rule(why, rule);
    const rgp_reason *trigger = r->part->pdata[0];
    const rgp_event *event = rgp_frame_event(why->layout, why->frame);
    const rgp_image_rule *is = (const rgp_image_rule *)rgp_image_at(why->engine->image, RGP_SECTION_RULES) + rule;
    bool fired = false;
    for (uint32_t i = 0; i < why->frame->events; i++) {
        fired |= event[i].kind == RGP_EVENT_FIRED && event[i].source == rule;
    }
    if ((strstr(r->says->str, " did not fire at ") == NULL) != fired || (fired && trigger->holds != RGP_HOLDS_YES) ||
        (is->trigger < RGP_REF_NONE &&
         (rgp_why_lack(why, rule).conditions == 0) != (trigger->holds == RGP_HOLDS_YES))) {
        fail_msg("%s at %g s: it %s, and this is told: %s", name, (double)why->frame->time_us / 1e6,
                 fired ? "fired" : "did not fire", r->says->str);
    }
    check_sides(r, name);
    rgp_reason_free(r);
}

/* The owner that is told is the one that there is; nothing is said to change what comes out as it was asked. */
static void check_actuator(const rgp_why *why, uint32_t actuator, const char *name)
{
    rgp_reason *r = rgp_why_actuator(why, actuator);
    const float is = rgp_engine_value(why->engine, (uint16_t)rgp_image_actuator_slot(why->engine->image, actuator))
                         .value,
                asked = rgp_engine_asked(why->engine, (uint16_t)actuator);
    bool changed = false;
    for (guint i = 0; i < r->part->len; i++) {
        changed |= g_str_has_prefix(((const rgp_reason *)r->part->pdata[i])->says->str, "asked is ");
    }
    const uint16_t owner = rgp_engine_owner(why->engine, (uint16_t)actuator);
    const bool kept = owner == RGP_OWNER_GUARD || owner == RGP_OWNER_STOP; /* which is told in other words */
    if (!kept && changed != (fabsf(is - asked) > 0.0f)) {
        fail_msg("%s at %g s: %g was asked and %g came out: %s", name, (double)why->frame->time_us / 1e6, (double)asked,
                 (double)is, r->says->str);
    }
    check_sides(r, name);
    rgp_reason_free(r);
}

static void check_row(const rgp_why *why, const char *name)
{
    const rgp_image_header *image = why->engine->image;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RULES); i++) {
        check_rule(why, i, name);
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        check_actuator(why, i, name);
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++) {
        rgp_reason *r = rgp_why_loop(why, i);
        check_sides(r, name);
        rgp_reason_free(r);
    }
    for (uint32_t i = 0; i < image->slots; i++) {
        if (rgp_image_name_of(image, RGP_NAME_SLOT, i, 0)) {
            rgp_reason *r = rgp_why_value(why, i);
            check_sides(r, name);
            rgp_reason_free(r);
        }
    }
}

static void test_every_example_at_length(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "run", NULL);
    GPtrArray *all = list_files(RIGPULSE_SOURCE "/examples", ".rig");
    for (guint i = 0; i < all->len; i++) {
        g_autofree char *call =
            g_strdup_printf("run %s/examples/%s --port sim --for 40s --fast --record run --overwrite", RIGPULSE_SOURCE,
                            (const char *)all->pdata[i]);
        called c = call_tool(folder, call);
        GError *error = NULL;
        rgp_recording *from = rgp_recording_read(stem, &error);
        rgp_explanation *e = from ? rgp_explanation_new(from, &error) : NULL;
        const rgp_why *why;
        if (!e) {
            fail_msg("%s: %s", c.err, error->message);
        }
        while ((why = rgp_explanation_next(e))) {
            if (rgp_explanation_row(e) % 7 == 0 || why->frame->events > 0) {
                check_row(why, all->pdata[i]);
            }
        }
        assert_int_equal(rgp_explanation_row(e) + 1, from->rows);
        assert_string_equal(rgp_explanation_says(e), "");
        rgp_explanation_free(e);
        rgp_recording_free(from);
        call_done(&c);
    }
    assert_true(all->len >= 18);
    g_ptr_array_unref(all);
    remove_folder(folder);
}

/* ---- any row, in any order ---------------------------------------------------------------------------- */

static char *all_of(const rgp_why *why)
{
    const rgp_image_header *image = why->engine->image;
    GString *to = g_string_new(NULL);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RULES); i++) {
        rgp_reason *r = rgp_why_rule(why, i);
        rgp_reason_print(r, to);
        rgp_reason_free(r);
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        rgp_reason *r = rgp_why_actuator(why, i);
        rgp_reason_print(r, to);
        rgp_reason_free(r);
    }
    return g_string_free(to, FALSE);
}

/* From kept places the same is told as on the way. */
static void test_any_row(void **unused)
{
    (void)unused;
    static const char *const names[] = {"bridge", "crossing", "trap", "boiler", "buoy"};
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "run", NULL);
    for (size_t n = 0; n < G_N_ELEMENTS(names); n++) {
        g_autofree char *call = g_strdup_printf("run %s/examples/%s.rig --for 60s --fast --record run --overwrite",
                                                RIGPULSE_SOURCE, names[n]);
        called c = call_tool(folder, call);
        rgp_recording *from = rgp_recording_read(stem, NULL);
        rgp_explanation *e = rgp_explanation_new(from, NULL);
        GRand *chance = g_rand_new_with_seed(4);
        g_autoptr(GPtrArray) told = g_ptr_array_new_with_free_func(g_free);
        const uint32_t stride = 1 + from->rows / 40;
        for (const rgp_why *why; (why = rgp_explanation_next(e));) {
            if (rgp_explanation_row(e) % stride == 0) {
                g_ptr_array_add(told, all_of(why));
            }
        }
        for (int i = 0; i < 30; i++) {
            const guint which = (guint)g_rand_int_range(chance, 0, (gint32)told->len);
            g_autofree char *again = all_of(rgp_explanation_at(e, which * stride));
            assert_string_equal(again, told->pdata[which]);
        }
        assert_null(rgp_explanation_at(e, from->rows));
        g_rand_free(chance);
        rgp_explanation_free(e);
        rgp_recording_free(from);
        call_done(&c);
    }
    remove_folder(folder);
}

/* ---- places in the user's cache ----------------------------------------------------------------------- */

#define ASKED 12u

typedef struct sitting {
    const char *stem;
    char *told[ASKED];
    uint32_t places; /* that were there when it began */
} sitting;

/* Asks for rows all over the recording, from the last one on; the first time what is told is kept, later held. */
static void ask(sitting *a)
{
    rgp_recording *from = rgp_recording_read(a->stem, NULL);
    rgp_explanation *e = rgp_explanation_new(from, NULL);
    a->places = rgp_explanation_places(e);
    for (uint32_t i = ASKED; i-- > 0;) {
        g_autofree char *text = all_of(rgp_explanation_at(e, (from->rows - 1) / (ASKED - 1) * i));
        if (a->told[i]) {
            assert_string_equal(text, a->told[i]);
        } else {
            a->told[i] = g_steal_pointer(&text);
        }
    }
    rgp_explanation_free(e);
    rgp_recording_free(from);
}

static char *only_file(const char *folder)
{
    g_autoptr(GDir) dir = g_dir_open(folder, 0, NULL);
    assert_non_null(dir);
    char *path = g_build_filename(folder, g_dir_read_name(dir), NULL);
    assert_null(g_dir_read_name(dir));
    return path;
}

static void damage(const char *file, size_t at, size_t length)
{
    g_autofree char *bytes = NULL;
    gsize is;
    assert_true(g_file_get_contents(file, &bytes, &is, NULL));
    bytes[at < is ? at : is / 2] ^= 0x10;
    assert_true(g_file_set_contents(file, bytes, (gssize)(length < is ? length : is), NULL));
}

/* The next call goes on from what one has kept, and tells the same; a file that is damaged, cut off, or that others
 * could have written is not taken, and made anew. */
static void test_places_at_length(void **unused)
{
    (void)unused;
    static const struct {
        size_t flip, length;
        mode_t mode;
    } damages[] = {{100, SIZE_MAX, 0600}, {SIZE_MAX, SIZE_MAX, 0600}, {0, 50, 0600}, {3, SIZE_MAX, 0600}, {0, 0, 0600}};
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "run", NULL),
                    *cache = g_build_filename(g_get_user_cache_dir(), "rigpulse", NULL);
    called c =
        call_tool(folder, "run " RIGPULSE_SOURCE "/examples/crossing.rig --for 600s --fast --record run --quiet");
    sitting a = {.stem = stem};
    call_done(&c);
    c = call_tool(folder, "list run"); /* which makes its index */
    call_done(&c);
    c = call_tool(folder, "why run 'line 65' '#3'");
    g_autofree char *third = g_strdup(c.out);
    assert_says(third, "fired at");
    call_done(&c);
    remove_folder(g_strdup(cache));
    ask(&a);
    assert_int_equal(a.places, 0);
    ask(&a);
    assert_true(a.places >= 60);
    c = call_tool(folder, "why run 'line 65' '#3'");
    assert_string_equal(c.out, third);
    call_done(&c);
    remove_folder(g_strdup(cache));
    for (size_t i = 0; i < G_N_ELEMENTS(damages); i++) {
        ask(&a);
        g_autofree char *file = only_file(cache);
        damage(file, damages[i].flip, damages[i].length);
        ask(&a);
        assert_int_equal(a.places, 0);
    }
    g_autofree char *file = only_file(cache);
    assert_int_equal(chmod(file, 0620), 0);
    ask(&a);
    assert_int_equal(a.places, 0);
    ask(&a);
    assert_true(a.places >= 60);
    for (size_t i = 0; i < ASKED; i++) {
        g_free(a.told[i]);
    }
    remove_folder(folder);
}

/* ---- a run whose readings are known ------------------------------------------------------------------ */

static const char known[] =
    "rig known\ntick 100 ms\n"
    "sensor level mm 0..100, every 100 ms, fault after 500 ms\nsensor gate switch\n"
    "actuator pump percent 0..100, rest at 0, slew 100 %/s\nactuator lamp switch, rest at off\n"
    "param high = 60 mm in 30..90 mm\n"
    "bands fill = level: low below 20 mm, middle below high, full; margin 2 mm\n"
    "while level above high, margin 5 mm and gate is on\n    lamp on for 200 ms\n    holdoff 1 s\n"
    "on level goes above 80 mm or gate goes off\n    pump 50 % for 1 s\n"
    "while fill is low for 300 ms\n    pump 30 %\n"
    "on 2 times gate goes on within 5 s\n    mark \"twice\"\n"
    "hookup sim\n    level plays \"in.csv\"\n    gate plays \"in.csv\"\n";

/* Of each tenth of a second: a level and a gate. */
static void put_known(const char *folder)
{
    g_autoptr(GString) csv = g_string_new("t,level,gate\n");
    for (int i = 0; i < 60; i++) {
        const int level = i < 10    ? 50
                          : i < 20  ? 58 + i - 10
                          : i < 25  ? 85
                          : i < 30  ? 40
                          : i < 40  ? 10
                          : i == 45 ? 78
                                    : 58;
        if (i >= 50 && i < 52) {
            g_string_append_printf(csv, "%.1f,,0\n", i / 10.0);
        } else {
            g_string_append_printf(csv, "%.1f,%d,%d\n", i / 10.0, level, i >= 15 && i < 30);
        }
    }
    put_file(folder, "in.csv", csv->str, -1);
    put_file(folder, "known.rig", known, -1);
    called c = call_tool(folder, "run known.rig --for 6s --fast --record known");
    assert_int_equal(c.status, 0);
    call_done(&c);
}

static const call_case asked[] = {
    {"why known", 0, "  line 9        1 fired  while level above high"},
    {"why known line 9", 0,
     "line 9 'while level above high, margin 5 mm and gate is on' fired at 1.500 s: lamp on for 0.2 s, then holdoff 1 "
     "s\n"
     "  yes  all of these\n"
     "    yes  level above high, margin 5 mm: it is 63 mm, 3 mm above high 60 mm; true until it is 5 mm below, since "
     "1.300 s\n"
     "    yes  gate is on: it is on, since 1.500 s\n"},
    {"why known 9 1.4s", 0,
     "did not fire at 1.400 s: its condition is not true\n"
     "  no   all of these\n"
     "    yes  level above high, margin 5 mm: it is 62 mm, 2 mm above high 60 mm; true until it is 5 mm below, since "
     "1.300 s\n"
     "    no   gate is on: it is off\n"},
    {"why known 9 2s", 0, "did not fire at 2.000 s: its holdoff goes on until 2.700 s, for it fired at 1.500 s\n"},
    {"why known 12 '#2'", 0,
     "line 12 'on level goes above 80 mm or gate goes off' fired at 3.000 s: pump 50 % for 1 s\n"
     "  yes  at least one of these\n"
     "    no   level goes above 80 mm: it did not come; it last came at 2.000 s\n"
     "      no   level is above 80 mm: it is 10 mm, 70 mm below 80 mm; last so at 2.400 s\n"
     "    yes  gate goes off: it came in this tick\n"
     "      yes  gate is off: it is off, since 3.000 s\n"},
    {"why known 12 --near", 0, "  nearly: 'level goes above 80 mm' lacked 2 mm, of usually 22 mm\n"},
    {"why known 14 3.2s", 0,
     "  no   fill is low for 300 ms: true for 0.2 s of 0.3 s\n"
     "    yes  fill is low: level is 10 mm, and low lies below 20 mm, since 3.000 s\n"},
    {"why known 14 5s", 0, "did not fire at 5.000 s: what it goes by cannot be known\n  ?    fill is low for 300 ms"},
    {"why known 14 --most 1", 0, "\nand 6 more; --most N tells more of them\n"},
    {"why known 16", 0, "it never fired; '--near' tells when it nearly did"},
    {"why known 16 '#3'", 0, "there is no '#3': it never fired; '--near' tells when it nearly did\n"},
    {"why known 16 --near", 0, "it never came near: no single condition was missing by less than a quarter"},
    {"why known pump 2.3s", 0,
     "pump is at 40 % at 2.300 s, owner line 12, since 2.000 s\n"
     "  line 12 'on level goes above 80 mm or gate goes off' asks 50 %, until 3.000 s\n"
     "  asked is 50 %; it changes by at most 100 % a second\n"},
    {"why known pump 3.5s", 0, "  over line 14 'while fill is low for 300 ms', by a plain set, asks 30 %\n"},
    {"why known lamp 1.5s", 0, "lamp is on at 1.500 s, owner line 9"},
    {"why known lamp 1s", 0, "nobody asks anything of it, so it is at rest\n"},
    {"why known fill 2s", 0, "fill is full at 2.000 s\n  level is 85 mm, and full lies above high 60 mm\n"},
    {"why known level 5.1s", 0, "level is missing at 5.100 s\n"},
    {"why known high 1s --json", 0, "\"says\": \"high is 60 mm at 1.000 s\""},
    {"why known line 10", 2, "no rule of known begins in line 10; its rules begin in lines 9, 12, 14, 16\n"},
    {"why known pumpp", 2, "did you mean 'pump'?"},
    {"why known pump 9s", 2, "9 s is outside the recording, which goes from 0 to 5.9 s\n"},
    {"why known pump noon", 2, "'noon' is no moment of known"},
    {"why known pump '#1'", 2, "'#1': a rule's firings are numbered from 1, as in '#2'\n"},
    {"why known 9 '#0'", 2, "numbered from 1"},
    {"why known level", 2, "say of which moment: why known level 12.4s\n"},
    {"why known pump --near", 2, "--near is of rules; of 'pump' ask for a moment\n"},
    {"why known 9 2s --near", 2, "--near looks through the whole recording for one rule"},
    {"why known 9 --most 0", 2, "at least 1 has to be told"},
    {"why nothing", 2, "nothing"},
    {"why in.csv", 2, "in"},
    {"why known.rig", 2, "known.rig"},
};

static void test_known(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_known(folder);
    check_calls(folder, asked, G_N_ELEMENTS(asked));
    remove_folder(folder);
}

/* Each peak of a wave that is known: near are those that come closest to the limit and go away again. */
static void test_near(void **unused)
{
    (void)unused;
    static const int peak[] = {50, 72, 60, 79, 90, 30, 76};
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "wave", NULL);
    g_autoptr(GString) csv = g_string_new("t,level\n");
    for (int i = 0; i < 140; i++) {
        g_string_append_printf(csv, "%.1f,%.2f\n", i / 10.0, peak[i / 20] * sin(M_PI * (i % 20) / 20.0));
    }
    put_file(folder, "in.csv", csv->str, -1);
    put_file(folder, "wave.rig",
             "rig wave\ntick 100 ms\nsensor level mm 0..100\n"
             "while level above 80 mm\n    mark \"over\"\n    holdoff 10 s\n"
             "hookup sim\n    level plays \"in.csv\"\n",
             -1);
    called c = call_tool(folder, "run wave.rig --for 14s --fast --record wave --overwrite");
    GError *error = NULL;
    rgp_recording *from = rgp_recording_read(stem, &error);
    if (!from) {
        fail_msg("%s%s", c.err, error->message);
    }
    g_autoptr(GArray) near = rgp_near_of(from, 0, 9, NULL);
    static const uint32_t row[] = {30, 70, 130};
    assert_int_equal(near->len, G_N_ELEMENTS(row));
    for (guint i = 0; i < near->len; i++) {
        const rgp_near *is = &g_array_index(near, rgp_near, i);
        assert_int_equal(is->row, row[i]);
        assert_near(is->amount, 80.0 - peak[row[i] / 20], 1e-4);
    }
    rgp_recording_free(from);
    call_done(&c);
    remove_folder(folder);
}

int main(void)
{
    char *cache = make_folder();
    g_setenv("XDG_CACHE_HOME", cache, TRUE);
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_every_example_at_length),
        cmocka_unit_test(test_any_row),
        cmocka_unit_test(test_places_at_length),
        cmocka_unit_test(test_known),
        cmocka_unit_test(test_near),
    };
    const int failed = cmocka_run_group_tests(tests, NULL, NULL);
    remove_folder(cache);
    return failed;
}
