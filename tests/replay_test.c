/* Replays: an unchanged text gives the same bits for every example; a changed one says what would have been different.
 */
#include "support.h"

#include "analysis/differences.h"
#include "analysis/variation.h"
#include "runtime/door.h"
#include "runtime/ports.h"
#include "runtime/replay.h"

#include <string.h>

/* Asks everything that a person or a script can ask of a rig, at stated ticks. */
static void ask(rgp_door *door, const rgp_image_header *image, uint32_t tick)
{
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    const rgp_image_actuator *a = rgp_image_at(image, RGP_SECTION_ACTUATORS);
    const bool params = rgp_image_count(image, RGP_SECTION_PARAMS) > 0,
               actuators = rgp_image_count(image, RGP_SECTION_ACTUATORS) > 0;
    rgp_command c = {.by = RGP_BY_SCRIPT};
    if (params && (tick == 40 || tick == 90)) {
        c = (rgp_command){RGP_COMMAND_SET, RGP_BY_PERSON, 0, tick == 40 ? param->high : param->low, 0.0f};
    } else if (actuators && tick == 120) {
        c = (rgp_command){RGP_COMMAND_HAND, RGP_BY_PERSON, 0, a->high, 0.0f};
    } else if (actuators && tick == 150) {
        c = (rgp_command){RGP_COMMAND_HOLD, RGP_BY_PERSON, 0, a->low, 0.3f};
    } else if (tick == 200 || tick == 230) {
        c.what = tick == 200 ? RGP_COMMAND_STOP : RGP_COMMAND_RESUME;
    } else if (tick == 260 || tick == 280) {
        c.what = RGP_COMMAND_BOUND;
        c.value = tick == 260 ? 50.0f : 0.0f;
    } else if (tick == 300) {
        c.what = RGP_COMMAND_CLEAR;
    } else {
        return;
    }
    if (c.what == RGP_COMMAND_BOUND && tick == 280) {
        c.value = 100.0f;
    }
    assert_int_equal(rgp_door_ask(door, &c), RGP_OK);
}

/* 600 ticks of it, recorded as NAME. `from`: the recording begins at that tick. */
static void record(const rgp_rig *rig, uint64_t seed, const char *name, uint32_t from)
{
    const uint64_t tick_us = ((const rgp_image_header *)rig->image)->tick_us;
    const rgp_door_setup setup = {.rig = rig,
                                  .seed = seed,
                                  .length_us = 600 * tick_us,
                                  .fast = true,
                                  .stepped = true,
                                  .record = from == 0 ? name : NULL,
                                  .overwrite = true};
    GError *error = NULL;
    rgp_door *door = rgp_door_open(&setup, &error);
    if (!door) {
        fail_msg("%s", error->message);
    }
    for (uint32_t tick = 0; tick < 600; tick++) {
        g_autofree char *taken = NULL;
        assert_true(from == 0 || tick != from || rgp_door_record(door, name, &taken, NULL));
        ask(door, rig->image, tick);
        rgp_door_advance(door, (tick + 1) * tick_us);
    }
    rgp_door_end(door, NULL);
}

/* The differences that a replay of it through `rig` finds; *said becomes what it says, to be freed. */
static rgp_differences *differences_by(const rgp_rig *rig, const rgp_recording *from, rgp_history **h, char **said)
{
    rgp_replay *replay = rgp_replay_new(rig, from, NULL, NULL);
    const rgp_frame *frame;
    *h = rgp_history_new(rig->image, 0);
    while ((frame = rgp_replay_next(replay))) {
        rgp_history_frame(*h, rgp_replay_layout(replay), frame);
    }
    *said = g_strdup(rgp_replay_says(replay));
    rgp_replay_free(replay);
    return rgp_differences_of(from, rig, *h, 1.0);
}

/* `rig` NULL: through the text that stands in the recording. */
static void check_same(const rgp_rig *rig, const char *name, const char *what)
{
    GError *error = NULL;
    rgp_recording *back = rgp_recording_read(name, &error);
    if (!back) {
        fail_msg("%s", error->message);
    }
    g_autofree char *said = NULL;
    rgp_history *h;
    rgp_differences *d = differences_by(rig ? rig : back->rig, back, &h, &said);
    if (!d->none || *said) {
        const rgp_signal_difference *first =
            d->signal->len > 0 ? &g_array_index(d->signal, rgp_signal_difference, 0) : NULL;
        fail_msg("%s: %u signals differ, the first is %s from row %u on; owners in %u rows; it says '%s'", what,
                 d->signal->len, first ? first->name : "none", first ? first->first : 0, d->owners, said);
    }
    assert_int_equal(d->rows, back->rows);
    assert_true(d->rows >= 50);
    rgp_differences_free(d);
    rgp_history_free(h);
    rgp_recording_free(back);
}

/* Its sensors play the recording in `folder`: each tick reads the same, and is told the same edges. */
static void check_played(const rgp_rig *rig, const char *folder)
{
    const char *hookup = strstr(rig->source, "\nhookup sim");
    g_autoptr(GString) text = g_string_new_len(rig->source, hookup - rig->source);
    g_string_append(text, "\nhookup sim\n");
    for (uint32_t i = 0; i < rig->hookup->sensors; i++) {
        const uint32_t slot = rgp_image_sensor_slot(rig->image, rig->hookup->sensor[i].sensor);
        g_string_append_printf(text, "    %s plays \"run.csv\"\n", rgp_image_text(rig->image, RGP_NAME_SLOT, slot, 0));
    }
    g_autofree char *path = g_build_filename(folder, "again.rig", NULL),
                    *stem = g_build_filename(folder, "again", NULL);
    rgp_rig *again = rgp_rig_compile(path, text->str, text->len, rgp_ports_catalog());
    if (!again->image) {
        fail_msg("%s", rgp_rig_report(again));
    }
    record(again, 7, stem, 0);
    static const char *const endings[] = {"csv", "events.jsonl"};
    for (size_t i = 0; i < G_N_ELEMENTS(endings); i++) {
        g_autofree char *a = g_strconcat("run.", endings[i], NULL), *b = g_strconcat("again.", endings[i], NULL);
        g_autofree char *then = get_file(folder, a), *now = get_file(folder, b);
        if (strcmp(then, now) != 0) {
            fail_msg("what was recorded of %s plays as another %s", rig->file, endings[i]);
        }
    }
    rgp_rig_free(again);
}

/* Each example on three seeds, with all that can be asked of it, also through its traced image: every value, quality,
 * owner and event. */
static void test_every_example(void **unused)
{
    (void)unused;
    const char *name;
    uint32_t rigs = 0;
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "run", NULL);
    g_autoptr(GDir) all = g_dir_open(RIGPULSE_SOURCE "/examples", 0, NULL);
    while ((name = g_dir_read_name(all))) {
        g_autofree char *text = NULL, *path = g_build_filename(RIGPULSE_SOURCE "/examples", name, NULL);
        if (!g_str_has_suffix(name, ".rig") || !g_file_get_contents(path, &text, NULL, NULL)) {
            continue;
        }
        rgp_rig *rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog()),
                *traced = rgp_rig_compile_traced(path, text, strlen(text), rgp_ports_catalog());
        for (uint64_t seed = 1; seed <= 3; seed++) {
            record(rig, seed, stem, 0);
            check_same(rig, stem, name);
            check_same(traced, stem, name);
        }
        check_played(rig, folder);
        rgp_rig_free(traced);
        rgp_rig_free(rig);
        rigs++;
    }
    assert_true(rigs >= 18);
    remove_folder(folder);
}

/* A clock that leaps and stands, readings that are late, missing and slow, a number that no float holds, edges within
 * ticks. */
static const char hard[] =
    "rig hard\ntick 10 ms\nsensor level counts 0..4095, every 100 ms, jump 2000 counts/s, fault after 200 ms\n"
    "sensor far counts 0..2000000000\nsensor gate switch\nactuator pump percent 0..100, rest at 0, slew 50 %/s\n"
    "param low = 900 counts in 100..3000 counts\n"
    "signal calm = level | despike 5 | smooth 100 ms\nsignal near = far | line 0.001 mm/counts, -1000000 mm\n"
    "signal wide = gate | width\n"
    "while calm below low\n    pump 60 % for 100 ms\n    holdoff 200 ms\n"
    "on gate goes on\n    mark \"seen\" wide\n"
    "hookup sim\n    tank basin: filled by pump, inflow 60 ml/s, leak 40 ml/s, start 5 cm, height 12 cm\n"
    "    level sees basin depth: 312 at 0 cm, 3020 at 12 cm, noise 6, period 30 ms, spikes 900 every 1 s\n"
    "    far sees basin depth: 999999000 at 0 cm, 1000001000 at 12 cm\n"
    "    at 1 s clock leaps 300 ms\n    at 2 s clock stands for 50 ms\n    at 3 s level drops for 500 ms\n";

static void test_hard_inputs(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "run", NULL);
    rgp_rig *rig = rgp_rig_compile("hard.rig", hard, strlen(hard), rgp_ports_catalog());
    if (!rig->image) {
        fail_msg("%s", rgp_rig_report(rig));
    }
    for (uint64_t seed = 1; seed <= 3; seed++) {
        record(rig, seed, stem, 0);
        check_same(rig, stem, "hard");
    }
    rgp_rig_free(rig);
    remove_folder(folder);
}

/* Recordings that a former version of the tool has made: what they promised then they keep. */
static void test_recordings_of_before(void **unused)
{
    (void)unused;
    static const char *const name[] = {"beacon", "bridge", "deck", "trap"};
    for (size_t i = 0; i < G_N_ELEMENTS(name); i++) {
        g_autofree char *stem = g_strdup_printf("%s/tests/corpus/second/%s", RIGPULSE_SOURCE, name[i]);
        check_same(NULL, stem, name[i]);
    }
}

/* A recording that began in the middle of a run promises nothing. */
static void test_begun_in_the_middle(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *stem = g_build_filename(folder, "run", NULL), *said = NULL;
    rgp_rig *rig = rgp_rig_compile("hard.rig", hard, strlen(hard), rgp_ports_catalog());
    record(rig, 1, stem, 250);
    rgp_recording *back = rgp_recording_read(stem, NULL);
    rgp_history *h;
    assert_true(back->first_tick > 200 && back->first_tick <= 250); /* ticks that took no time do not count */
    rgp_differences_free(differences_by(rig, back, &h, &said));
    assert_says(said, "began in the middle of a run");
    rgp_variation *v = rgp_variation_of(
        &(rgp_variation_ask){.rig = rig, .from = back, .param = 0, .low = 500, .high = 900, .values = 2}, NULL);
    assert_true(v->exact[0] == 0 && v->exact[1] == 0); /* the same where it is varied */
    assert_string_equal(v->says, said);
    rgp_variation_free(v);
    rgp_history_free(h);
    rgp_recording_free(back);
    rgp_rig_free(rig);
    remove_folder(folder);
}

/* Edited texts, and what the tool says of them: a rule by rule answer, with reasons. */
static const char steps[] = "rig steps\ntick 100 ms\nsensor s counts 0..99\nsensor k switch\n"
                            "actuator lamp switch, rest at off\nparam limit = 50 counts in 0..99 counts\n"
                            "on s goes above limit\n    mark \"up\"\n"
                            "on k goes on\n    lamp on for 300 ms\n"
                            "hookup sim\n    s plays \"t.csv\" \"s\"\n    k plays \"t.csv\" \"k\"\n";

static void test_edited_texts(void **unused)
{
    (void)unused;
    static const struct {
        const char *from, *to, *arguments;
        int status;
        const char *says;
    } cases[] = {
        {"", "", "", 0, "the text is that of the recording; every value, quality, owner and event is the same"},
        {"limit = 50", "limit = 50.0", "", 0,
         "the text is another one than the recording's; every value, quality and event"},
        {"limit = 50", "limit = 70", "", 1,
         "on s goes above limit fired: then 3, now 3; 0 the same, 3 shifted (0.200 to 0.200 s)"},
        {"limit = 50", "limit = 95", "", 1, "on s goes above limit fired: then 3, now 0; 0 the same, 3 missing"},
        {"limit = 50", "limit = 95", "", 1, "missing now; then because s 60 counts is above limit 50 counts"},
        {"on s goes above", "on s goes below", "", 1, "fired: then 3, now 2;"},
        {"k goes on", "k goes off", "", 1, "exact until 0.200 s: from then on something else is driven"},
        {"sensor k", "sensor q", "", 2, "there is no 'k' in this rig"},
        {"mark \"up\"", "mark \"over\"", "", 1, "over mark: then 0, now 3"},
        {"", "", "--set limit=95", 1, "limit differs in 30 rows, from 0.000 s on, at most by 45 counts"},
        {"", "", "--set limit=200", 2, "limit can be from 0 to 99 counts"},
        {"", "", "--vary limit=20..80counts,3", 0, "       50 counts          3          1"},
        {"k goes on", "k goes off", "--vary limit=20..80counts,3", 0, "      0.200 s\nbehind the last column"},
        {"k goes on", "k goes off", "--vary limit=20..80counts,3 --json", 0, "\"exact_until\": 0.2"},
        {"", "", "--vary limit=20..80counts,3 --picture v.svg", 0, "the picture: v.svg"},
        {"", "", "--vary limit=20..80counts,3 --picture v.gif", 2, "the picture's name must end with .png or .svg"},
        {"", "", "--picture v.svg", 2, "--picture draws what --vary counts"},
        {"", "", "--overwrite", 2, "--overwrite goes with --record NAME"},
        {"", "", "--vary limit=80..20counts", 2, "A is not less than B"},
        {"", "", "--vary limit=20..80s", 2, "the units do not go together; limit is in counts"},
        {"", "", "--vary limit=2..3counts,3x", 2, "N is a whole number from 2 to 50"},
        {"", "", "--vary limit=2..3counts --set limit=5counts", 2, "take one of the two out"},
        {"", "", "--vary limt=2..3", 2, "it has limit"},
        {"", "", "--vary limit", 2, "it takes NAME=A..B"},
        {"", "", "--vary limit=2..300counts", 2, "limit can be from 0 to 99 counts"},
        {"", "", "--record run", 2, "is there already"},
        {"", "", "--record again", 0, "bit for bit"},
        {"", "", "--json", 0, "\"same\": true"},
    };
    char *folder = make_folder();
    g_autoptr(GString) table = g_string_new("time,s,k\n");
    for (int i = 0; i < 30; i++) {
        g_string_append_printf(table, "%d.%d,%d,%d\n", i / 10, i % 10, 10 * (i % 10), i == 2 || i == 3);
    }
    put_file(folder, "t.csv", table->str, -1);
    put_file(folder, "steps.rig", steps, -1);
    called c = call_tool(folder, "run steps.rig --fast --for 3s --record run --quiet");
    assert_int_equal(c.status, 0);
    call_done(&c);
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_auto(GStrv) parts = *cases[i].from ? g_strsplit(steps, cases[i].from, 2) : NULL;
        g_autofree char *text = parts ? g_strjoinv(cases[i].to, parts) : g_strdup(steps);
        g_autofree char *call = g_strdup_printf("replay edited.rig run %s", cases[i].arguments);
        put_file(folder, "edited.rig", text, -1);
        c = call_tool(folder, call);
        if (c.status != cases[i].status || !strstr(c.status == 2 ? c.err : c.out, cases[i].says)) {
            fail_msg("case %zu ended with %d and said:\n%s%s", i, c.status, c.out, c.err);
        }
        call_done(&c);
    }
    check_calls(folder,
                (const call_case[]){{"replay edited.rig again", 0, "bit for bit"},
                                    {"replay edited.rig nothing", 2, "nothing: there is no recording of that name"},
                                    {"replay edited.rig", 2, "it needs FILE RECORDING"}},
                3);
    remove_folder(folder);
}

/* A recording whose own text does not compile any more is read by its columns: listed, drawn, and replayed through a
 * text that does, bit for bit. */
static void test_a_text_of_another_version(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    const char *const example[] = {"basin", "beacon", "trap", "crossing"};
    for (size_t i = 0; i < G_N_ELEMENTS(example); i++) {
        g_autofree char *name = g_strconcat(example[i], ".rig", NULL);
        g_autofree char *now = get_file(RIGPULSE_SOURCE "/examples", name);
        put_file(folder, "now.rig", now, -1);
        called c = call_tool(folder, "run now.rig --for 20s --fast --quiet --record past --overwrite");
        assert_int_equal(c.status, 0);
        call_done(&c);
        g_autofree char *json = get_file(folder, "past.json"), *table = get_file(folder, "past.csv");
        g_auto(GStrv) about = g_strsplit(json, "rig ", 2), heading = g_strsplit(table, "depth [cm]", 2);
        g_autofree char *spoilt = g_strjoinv("rigg ", about);
        put_file(folder, "past.json", spoilt, -1);
        check_calls(folder,
                    (const call_case[]){{"list past", 1, "its columns alone are shown: the rig's text in it does not"},
                                        {"plot past -o past.svg", 1, "past.svg"},
                                        {"replay now.rig past", 0, "every value, quality and event is the same, bit"}},
                    3);
        if (i == 0) { /* what is a word of the language by now is no name any more; a unit of another's */
            g_auto(GStrv) word = g_strsplit(spoilt, "\"name\": \"depth\",\n      \"unit\": \"cm\"", 2);
            g_autofree char *renamed = g_strjoinv("\"name\": \"every\",\n\"unit\": \"fathom\"", word);
            g_autofree char *headed = g_strjoinv("every [fathom]", heading);
            assert_non_null(word[1]);
            put_file(folder, "past.json", renamed, -1);
            put_file(folder, "past.csv", headed, -1);
            check_calls(folder, (const call_case[]){{"list past", 1, "every_         2.9"}}, 1);
            check_calls(folder, (const call_case[]){{"list past", 1, " fathom to "}}, 1);
        }
    }
    remove_folder(folder);
}

/* Every field of the JSON files is described by the schemas that ship, held by a validator that is not ours; so is
 * a line of `run --json`. */
static void test_schemas(void **unused)
{
    (void)unused;
    static const char validate[] =
        "import json, sys, jsonschema\n"
        "whole, line, mark = (json.load(open(sys.argv[1] + '/docs/' + n + '.schema.json')) for n "
        "in ('recording', 'events', 'marks'))\n"
        "jsonschema.validate(json.load(open('run.json')), whole)\n"
        "for name in ('run.events.jsonl', 'printed'):\n"
        "    for text in open(name):\n"
        "        jsonschema.validate(json.loads(text), line)\n"
        "for text in open('run.marks.jsonl'):\n"
        "    jsonschema.validate(json.loads(text), mark)\n"
        "odd = json.load(open('run.json'))\n"
        "odd['ticks'] = -1\n"
        "try:\n"
        "    jsonschema.validate(odd, whole)\n"
        "except jsonschema.ValidationError:\n"
        "    print('held')\n";
    static const char *const example[] = {"bridge", "boiler", "trap", "lamp"};
    char *folder = make_folder();
    put_file(folder, "validate.py", validate, -1);
    for (size_t i = 0; i < G_N_ELEMENTS(example); i++) {
        g_autofree char *path = g_strdup_printf("%s/examples/%s.rig", RIGPULSE_SOURCE, example[i]), *text = NULL;
        g_autofree char *stem = g_build_filename(folder, "run", NULL), *out = NULL, *err = NULL;
        assert_true(g_file_get_contents(path, &text, NULL, NULL));
        rgp_rig *rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog());
        record(rig, 1, stem, 0);
        rgp_rig_free(rig);
        g_autofree char *run = g_strdup_printf("run %s --fast --for 20s --json", path);
        called c = call_tool(folder, run);
        put_file(folder, "printed", c.out, -1);
        call_done(&c);
        check_calls(folder,
                    (const call_case[]){{"mark run idle 200..500ms", 0, "idle"}, {"mark run boat 700ms", 0, "boat"}},
                    2);
        const char *argv[] = {"/usr/bin/python3", "validate.py", RIGPULSE_SOURCE, NULL};
        assert_true(g_spawn_sync(folder, (char **)argv, NULL, 0, NULL, NULL, &out, &err, NULL, NULL));
        if (strcmp(out, "held\n") != 0) {
            fail_msg("%s: %s", example[i], err);
        }
    }
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_every_example),
        cmocka_unit_test(test_hard_inputs),
        cmocka_unit_test(test_begun_in_the_middle),
        cmocka_unit_test(test_recordings_of_before),
        cmocka_unit_test(test_edited_texts),
        cmocka_unit_test(test_a_text_of_another_version),
        cmocka_unit_test(test_schemas),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
