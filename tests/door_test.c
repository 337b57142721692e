/* A session: what is asked is done before the next tick, in order; a hand that is gone lets go; the history, the
 * recording and what is read back from it are one. */
#include "support.h"

#include "runtime/recording.h"
#include "runtime/door.h"
#include "runtime/ports.h"

#include <string.h>

static const char tub[] =
    "rig tub\ntick 10 ms\nsensor level counts 0..4095, fault after 300 ms\n"
    "actuator pump percent 0..100, rest at 0\nactuator lamp switch, rest at off\n"
    "param shallow = 3 cm in 1..6 cm\nparam long = 300 ms in 100 ms..2 s\n"
    "signal depth = level | table 0: 0 cm, 2000: 20 cm\n"
    "bands tide = depth: low below shallow, high; margin 0.2 cm\n"
    "while tide is low\n    pump 80 % for long\n    holdoff 400 ms\n"
    "on tide leaves low\n    lamp on\n    mark \"up\"\n"
    "hookup sim\n    tank basin: filled by pump, inflow 60 ml/s, leak 20 ml/s, start 3.2 cm, height 20 cm\n"
    "    level sees basin depth: 0 at 0 cm, 2000 at 20 cm, noise 3\n"
    "    at 6 s level drops for 1 s\n";

typedef struct running {
    char *folder, *name;
    rgp_rig *rig;
    rgp_door_setup setup;
    rgp_door *door;
} running;

static void start(running *r, uint64_t length_us, bool fast)
{
    GError *error = NULL;
    *r = (running){.folder = make_folder(), .rig = rgp_rig_compile("tub.rig", tub, strlen(tub), rgp_ports_catalog())};
    if (!r->rig->image) {
        fail_msg("%s", rgp_rig_report(r->rig));
    }
    r->name = g_build_filename(r->folder, "all", NULL);
    r->setup = (rgp_door_setup){
        .rig = r->rig, .seed = 3, .length_us = length_us, .fast = fast, .history = true, .record = r->name};
    r->door = rgp_door_open(&r->setup, &error);
    if (!r->door) {
        fail_msg("%s", error->message);
    }
}

static void finish(running *r)
{
    rgp_rig_free(r->rig);
    g_free(r->name);
    remove_folder(r->folder);
}

static void wait_for_rows(running *r, uint64_t rows)
{
    for (uint64_t end = 0; end < rows;) {
        end = rgp_history_end(rgp_door_look(r->door));
        rgp_door_look_away(r->door);
        g_usleep(2000);
    }
}

/* The value of a column at the newest row. */
static float newest(running *r, uint32_t column)
{
    const rgp_history *h = rgp_door_look(r->door);
    const float value = rgp_history_value(h, column, rgp_history_end(h) - 1);
    rgp_door_look_away(r->door);
    return value;
}

static uint32_t column_named(const rgp_image_header *image, const rgp_history *h, const char *name)
{
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        if (strcmp(rgp_image_text(image, RGP_NAME_SLOT, slot, 0), name) == 0) {
            return (uint32_t)rgp_history_slot(h, slot);
        }
    }
    fail_msg("there is no '%s'", name);
    return 0;
}

static void same_cell(const rgp_history *a, const rgp_history *b, uint32_t column, uint64_t row, float tolerance)
{
    const float x = rgp_history_value(a, column, row), y = rgp_history_value(b, column, row);
    if (!(x - y <= tolerance && y - x <= tolerance)) {
        fail_msg("column %u, row %u: %g in the history, %g in the recording", column, (unsigned)row, (double)x,
                 (double)y);
    }
}

/* A recording read back is the history of the run that made it: every value, quality and owner, and the timers of the
 * rules, which no column holds. */
static void test_recording_is_history(void **unused)
{
    (void)unused;
    running r;
    rgp_door_result result;
    start(&r, 10000000, true);
    const rgp_image_header *image = r.rig->image;
    while (!rgp_door_over(r.door)) {
        g_usleep(1000);
    }
    wait_for_rows(&r, 1000);
    const rgp_history *live = rgp_door_look(r.door);
    const uint32_t columns = rgp_history_newness(live, 0), rules = rgp_history_rule(live, 0),
                   owners = rgp_history_owner(live, 0);
    rgp_recording *back;
    rgp_door_look_away(r.door);

    assert_true(rgp_door_record(r.door, NULL, NULL, NULL));
    back = rgp_recording_read(r.name, NULL);
    assert_non_null(back);
    assert_int_equal(back->rows, 1000);
    live = rgp_door_look(r.door);
    uint32_t acting = 0, resting = 0, bad = 0, driven = 0;
    for (uint64_t row = 0; row < 1000; row++) {
        assert_true(rgp_history_time_us(live, row) == rgp_history_time_us(back->history, row));
        for (uint32_t column = 0; column < columns; column++) {
            const bool timer = column >= rules && column < owners;
            if (!timer) {
                assert_int_equal(rgp_history_quality(live, column, row),
                                 rgp_history_quality(back->history, column, row));
            }
            same_cell(live, back->history, column, row, timer ? 2e-3f : 0.0f);
        }
        acting += rgp_history_value(live, rules, row) > 0.0f;
        resting += rgp_history_value(live, rules, row) < 0.0f;
        bad += rgp_history_quality(live, column_named(image, live, "depth"), row) != RGP_GOOD;
        driven += rgp_history_value(live, owners, row) != (float)RGP_OWNER_REST;
    }
    assert_true(acting > 50 && resting > 50 && bad > 50 && driven > 50); /* else nothing has been compared */
    const GPtrArray *a = rgp_history_occurrences(live), *b = rgp_history_occurrences(back->history);
    assert_int_equal(a->len, b->len);
    for (guint i = 0; i < a->len; i++) {
        const rgp_occurrence *x = a->pdata[i], *y = b->pdata[i];
        assert_true(x->row == y->row && x->kind == y->kind && x->line == y->line);
        assert_string_equal(x->says, y->says);
        assert_true(g_strcmp0(x->why, y->why) == 0 && g_strcmp0(x->did, y->did) == 0);
    }
    rgp_door_look_away(r.door);
    rgp_recording_free(back);
    rgp_door_end(r.door, &result);
    assert_true(result.gaps == 0 && !result.record_failed && result.ticks == 1000);
    finish(&r);
}

/* Asked in one go, done in that order before one tick; what cannot be is not done, and a full queue says so. */
static void test_asking(void **unused)
{
    (void)unused;
    running r;
    rgp_door_result result;
    start(&r, 0, false);
    wait_for_rows(&r, 3);
    const rgp_history *h = rgp_door_look(r.door);
    const uint32_t shallow = column_named(r.rig->image, h, "shallow"), pump = column_named(r.rig->image, h, "pump"),
                   owner = rgp_history_owner(h, 0);
    rgp_door_look_away(r.door);
    const rgp_command commands[] = {
        {RGP_COMMAND_SET, RGP_BY_PERSON, 0, 5.0f, 0.0f},   {RGP_COMMAND_SET, RGP_BY_PERSON, 0, 2.0f, 0.0f},
        {RGP_COMMAND_SET, RGP_BY_PERSON, 0, 99.0f, 0.0f}, /* outside its range */
        {RGP_COMMAND_SET, RGP_BY_PERSON, 77, 1.0f, 0.0f}, /* no such parameter */
        {RGP_COMMAND_HAND, RGP_BY_PERSON, 0, 40.0f, 0.0f}, {RGP_COMMAND_HAND, RGP_BY_PERSON, 0, 400.0f, 0.0f}};
    static const rgp_status answers[] = {RGP_OK, RGP_OK, RGP_E_RANGE, RGP_E_INDEX, RGP_OK, RGP_E_RANGE};
    for (size_t i = 0; i < sizeof commands / sizeof *commands; i++) {
        assert_int_equal(rgp_door_ask(r.door, &commands[i]), answers[i]);
    }
    h = rgp_door_look(r.door);
    const uint64_t asked = rgp_history_end(h);
    rgp_door_look_away(r.door);
    wait_for_rows(&r, asked + 5);
    assert_true(newest(&r, shallow) == 2.0f && newest(&r, pump) == 40.0f);

    assert_int_equal(rgp_door_ask(r.door, &(rgp_command){RGP_COMMAND_STOP, RGP_BY_PERSON, 0, 0.0f, 0.0f}), RGP_OK);
    wait_for_rows(&r, asked + 15);
    assert_true(newest(&r, pump) == 0.0f && newest(&r, owner) == (float)RGP_OWNER_STOP);
    assert_int_equal(rgp_door_ask(r.door, &(rgp_command){RGP_COMMAND_RESUME, RGP_BY_PERSON, 0, 0.0f, 0.0f}), RGP_OK);
    rgp_door_mark(r.door, "here");
    wait_for_rows(&r, asked + 25);
    assert_true(newest(&r, owner) != (float)RGP_OWNER_STOP);

    bool full = false;
    for (int i = 0; i < 1000 && !full; i++) {
        full = rgp_door_ask(r.door, &(rgp_command){RGP_COMMAND_SET, RGP_BY_PERSON, 0, 3.0f, 0.0f}) == RGP_E_ROOM;
    }
    assert_true(full);
    rgp_door_stop(r.door);
    rgp_door_end(r.door, &result);
    rgp_recording *back = rgp_recording_read(r.name, NULL);
    const GPtrArray *all = rgp_history_occurrences(back->history);
    guint marks = 0, sets = 0;
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        marks += o->kind == RGP_EVENT_MARK && strcmp(o->of, "here") == 0;
        sets += o->kind == RGP_EVENT_PARAM && o->row <= asked + 5;
    }
    assert_int_equal(marks, 1);
    assert_int_equal(sets, 2);
    rgp_recording_free(back);
    finish(&r);
}

/* A held actuator is driven for as long as it is renewed, and rests a stated time after; by the clock of the ticks. */
static void test_holding(void **unused)
{
    (void)unused;
    running r;
    rgp_door_result result;
    start(&r, 0, false);
    wait_for_rows(&r, 3);
    const rgp_command hold = {RGP_COMMAND_HOLD, RGP_BY_PERSON, 0, 30.0f,
                              0.5f}; /* many times the pause below: machines stall */
    for (int i = 0; i < 4; i++) {
        assert_int_equal(rgp_door_ask(r.door, &hold), RGP_OK);
        g_usleep(80000);
    }
    const rgp_history *h = rgp_door_look(r.door);
    const uint64_t let_go = rgp_history_end(h);
    const uint32_t pump = column_named(r.rig->image, h, "pump");
    rgp_door_look_away(r.door);
    wait_for_rows(&r, let_go + 80);
    h = rgp_door_look(r.door);
    uint64_t first = 0, last = 0, driven = 0;
    for (uint64_t row = rgp_history_first(h); row < rgp_history_end(h); row++) {
        if (rgp_history_value(h, pump, row) == 30.0f) {
            first = driven++ ? first : row;
            last = row;
        }
    }
    rgp_door_look_away(r.door);
    assert_int_equal(driven, last - first + 1); /* in one piece */
    assert_true(last - first >= 30 && last < let_go + 65);
    rgp_door_stop(r.door);
    rgp_door_end(r.door, &result);
    finish(&r);
}

/* A recording may begin and end in the middle; one that cannot be written leaves the run as it is. */
static void test_recording_in_the_middle(void **unused)
{
    (void)unused;
    running r;
    rgp_door_result result;
    GError *error = NULL;
    char *taken = NULL;
    start(&r, 0, false);
    wait_for_rows(&r, 10);
    assert_true(rgp_door_is_recording(r.door));
    assert_true(rgp_door_record(r.door, NULL, NULL, NULL));
    assert_false(rgp_door_is_recording(r.door));
    assert_false(rgp_door_record(r.door, "/nowhere/x", &taken, &error));
    assert_says(error->message, "cannot write the recording");
    g_clear_pointer(&taken, g_free);
    g_clear_error(&error);
    g_autofree char *second = g_build_filename(r.folder, "second", NULL);
    assert_int_equal(rgp_door_ask(r.door, &(rgp_command){RGP_COMMAND_SET, RGP_BY_PERSON, 0, 4.5f, 0.0f}), RGP_OK);
    wait_for_rows(&r, 30);
    assert_true(rgp_door_record(r.door, second, &taken, NULL));
    const uint64_t begun = rgp_history_end(rgp_door_look(r.door)); /* however late this came */
    rgp_door_look_away(r.door);
    assert_string_equal(taken, second);
    g_free(taken);
    wait_for_rows(&r, begun + 30);
    rgp_door_stop(r.door);
    rgp_door_end(r.door, &result);
    assert_false(result.record_failed);
    rgp_recording *a = rgp_recording_read(r.name, NULL), *b = rgp_recording_read(second, NULL);
    assert_true(a && b && a->rows >= 10 && b->rows >= 20);
    assert_true(rgp_recording_time_us(a, a->rows - 1) < rgp_recording_time_us(b, 0));
    assert_true(rgp_recording_value(b, 0, 0) == 4.5f);
    assert_string_equal(b->ending, "complete");
    rgp_recording_free(a);
    rgp_recording_free(b);
    finish(&r);
}

/* ---- stepped --------------------------------------------------------------------------------------- */

/* A thousand ticks to orders from a script; the recording's table and events, one behind the other. */
static char *run_stepped(const char *rig_text, bool piecemeal)
{
    char *folder = make_folder();
    g_autofree char *name = g_build_filename(folder, "all", NULL), *csv = g_strconcat(name, ".csv", NULL),
                    *jsonl = g_strconcat(name, ".events.jsonl", NULL);
    rgp_rig *rig = rgp_rig_compile("tub.rig", rig_text, strlen(rig_text), rgp_ports_catalog());
    const rgp_door_setup setup = {.rig = rig, .seed = 3, .fast = true, .stepped = true, .record = name};
    static const rgp_command orders[] = {{RGP_COMMAND_SET, RGP_BY_SCRIPT, 0, 5.0f, 0.0f},
                                         {RGP_COMMAND_HOLD, RGP_BY_PERSON, 0, 25.0f, 0.2f},
                                         {RGP_COMMAND_DISTURB, RGP_BY_SCRIPT, 0, 0.0f, 0.0f},
                                         {RGP_COMMAND_PLACE, RGP_BY_SCRIPT, 0, 6.0f, 0.0f}};
    rgp_door *door = rgp_door_open(&setup, NULL);
    assert_non_null(door);
    for (uint64_t i = 0; i < 4; i++) {
        for (uint64_t us = i * 2500000; piecemeal && us < (i + 1) * 2500000; us += 10000) {
            assert_true(rgp_door_advance(door, us));
        }
        assert_true(rgp_door_advance(door, (i + 1) * 2500000));
        assert_int_equal(rgp_door_ask(door, &orders[i]), RGP_OK);
    }
    rgp_door_end(door, NULL);
    rgp_rig_free(rig);
    g_autofree char *rows = get_file("/", csv), *events = get_file("/", jsonl);
    remove_folder(folder);
    return g_strconcat(rows, events, NULL);
}

/* However it is advanced it does the same, and its inputs stand in the recording: who, from which tick on, in which
 * order; a hand that lets go by itself is one. */
static void test_stepped(void **unused)
{
    (void)unused;
    g_autofree char *once = run_stepped(tub, false), *again = run_stepped(tub, true);
    assert_string_equal(once, again);
    assert_says(
        once, "\"in\":true,\"tick\":250,\"order\":0,\"by\":\"script\",\"do\":\"set\",\"value\":5.0,\"of\":\"shallow\"");
    assert_says(
        once, "\"tick\":500,\"order\":0,\"by\":\"person\",\"do\":\"hold\",\"value\":25.0,\"of\":\"pump\",\"seconds\"");
    assert_says(once, "\"tick\":519,\"order\":0,\"by\":\"person\",\"do\":\"release\"");
    assert_says(once, "\"tick\":750,\"order\":0,\"by\":\"script\",\"do\":\"disturb\"");
}

/* A rule that changes a parameter in every tick is told of in short; what a person asks for is not. */
static void test_storm(void **unused)
{
    (void)unused;
    static const char stormy[] =
        "rig storm\ntick 10 ms\nsensor s counts 0..9\nparam a = 1 % in 0..1000 %\nparam b = 1 % in 0..1000 %\n"
        "while s above 1 counts\n    a 5 %\nhookup sim\n    s reads 5\n";
    char *folder = make_folder();
    g_autofree char *name = g_build_filename(folder, "all", NULL);
    rgp_rig *rig = rgp_rig_compile("storm.rig", stormy, strlen(stormy), rgp_ports_catalog());
    if (!rig->image) {
        fail_msg("%s", rgp_rig_report(rig));
    }
    const rgp_door_setup setup = {.rig = rig, .fast = true, .stepped = true, .record = name};
    rgp_door *door = rgp_door_open(&setup, NULL);
    for (uint64_t i = 0; i < 100; i++) {
        assert_int_equal(
            rgp_door_ask(door, &(rgp_command){RGP_COMMAND_SET, RGP_BY_PERSON, (uint16_t)(i % 2), (float)i, 0.0f}),
            RGP_OK);
        rgp_door_advance(door, (i + 1) * 10000);
    }
    rgp_command full = {RGP_COMMAND_SET, RGP_BY_PERSON, 1, 0.0f, 0.0f};
    uint32_t taken = 0;
    while (rgp_door_ask(door, &full) == RGP_OK) {
        taken++;
    }
    assert_int_equal(taken, RGP_FRAME_COMMANDS - 1);
    rgp_door_end(door, NULL);
    g_autofree char *events = g_strconcat(name, ".events.jsonl", NULL), *text = get_file("/", events);
    uint32_t inputs = 0, asked = 0, by_rule = 0;
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line; line++) {
        inputs += strstr(*line, "\"in\":true") != NULL;
        by_rule += strstr(*line, "\"event\":\"param\"") && strstr(*line, "\"by\":\"rule\"");
        asked += strstr(*line, "\"event\":\"param\"") && !strstr(*line, "\"by\":\"rule\"");
    }
    assert_int_equal(inputs, 100);
    assert_int_equal(asked, 100);
    assert_in_range(by_rule, 1, 20);
    rgp_rig_free(rig);
    remove_folder(folder);
}

/* ---- a recording ----------------------------------------------------------------------------------- */

/* Behind the same door: all of it at once, or played; it refuses whatever would change it. */
static void test_recording_behind_the_door(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *name = g_build_filename(folder, "all", NULL);
    rgp_rig *rig = rgp_rig_compile("tub.rig", tub, strlen(tub), rgp_ports_catalog());
    const rgp_door_setup run = {.rig = rig, .seed = 3, .length_us = 4000000, .fast = true, .record = name};
    rgp_door_result result;
    assert_true(rgp_door_run(&run, &result, NULL));
    assert_int_equal(result.ticks, 400);
    const rgp_door_setup looked = {.recording = name}, played = {.recording = name, .pace = 8.0};
    rgp_door *whole = rgp_door_open(&looked, NULL), *moving = rgp_door_open(&played, NULL);
    assert_true(rgp_door_over(whole) && !rgp_door_over(moving));
    const rgp_history *all = rgp_door_look(whole), *part = rgp_door_look(moving);
    assert_int_equal(rgp_history_end(all), 400);
    assert_in_range(rgp_history_end(part), 1, 300);
    for (int i = 0; i < 500 && !rgp_door_over(moving); i++) {
        g_usleep(10000);
        part = rgp_door_look(moving);
    }
    assert_int_equal(rgp_history_end(part), 400);
    assert_int_equal(rgp_history_occurrences(all)->len, rgp_history_occurrences(part)->len);
    for (uint64_t row = 0; row < 400; row++) {
        for (uint32_t column = 0; column < rgp_history_columns(all); column++) {
            same_cell(all, part, column, row, 0.0f);
        }
    }
    const rgp_command set = {RGP_COMMAND_SET, RGP_BY_PERSON, 0, 5.0f, 0.0f},
                      pace = {RGP_COMMAND_PACE, RGP_BY_PERSON, 0, 2.0f, 0.0f};
    assert_says(rgp_door_refuses(whole, RGP_COMMAND_SET), "can be looked at, not changed");
    assert_int_equal(rgp_door_ask(whole, &set), RGP_E_UNSUPPORTED);
    assert_int_equal(rgp_door_ask(whole, &pace), RGP_E_UNSUPPORTED);
    assert_int_equal(rgp_door_ask(moving, &pace), RGP_OK);
    GError *error = NULL;
    assert_false(rgp_door_record(moving, "again", NULL, &error));
    assert_says(error->message, "nothing can be recorded");
    g_clear_error(&error);
    assert_false(rgp_door_mark(moving, "here") || rgp_door_advance(moving, 1));
    rgp_door_end(whole, &result);
    rgp_door_end(moving, NULL);
    assert_int_equal(result.end_us, 3990000);
    rgp_rig_free(rig);
    remove_folder(folder);
}

/* Of a rig, ticks in which an actuator other than `jogged` was away from its rest. */
typedef struct others {
    const rgp_image_header *image;
    uint32_t jogged, moved, ticks, away;
} others;

static bool watch_others(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    others *o = self;
    const rgp_image_actuator *actuator = rgp_image_at(o->image, RGP_SECTION_ACTUATORS);
    const float *value = rgp_frame_value(layout, frame) + rgp_image_actuator_slot(o->image, 0);
    for (uint32_t i = 0; i < layout->actuators; i++) {
        const bool away = value[i] < actuator[i].rest || value[i] > actuator[i].rest;
        o->away += i != o->jogged && away;
        o->moved += i == o->jogged && away;
    }
    o->ticks++;
    return true;
}

/* Eight seconds; `jogged` is held at one end of its travel, and then at the other. */
static others jog_of(const rgp_rig *rig, uint32_t jogged, bool hand_only)
{
    others o = {.image = rig->image, .jogged = jogged};
    const rgp_image_actuator *a = (const rgp_image_actuator *)rgp_image_at(rig->image, RGP_SECTION_ACTUATORS) + jogged;
    const rgp_door_setup setup = {.rig = rig,
                                  .seed = 1,
                                  .length_us = 8000000,
                                  .fast = true,
                                  .stepped = true,
                                  .hand_only = hand_only,
                                  .frame = watch_others,
                                  .self = &o};
    GError *error = NULL;
    rgp_door *door = rgp_door_open(&setup, &error);
    if (!door) {
        fail_msg("%s", error->message);
    }
    rgp_command hand = {RGP_COMMAND_HAND, RGP_BY_PERSON, (uint16_t)jogged, a->high, 0.0f};
    assert_int_equal(rgp_door_ask(door, &hand), RGP_OK);
    assert_true(rgp_door_advance(door, 4000000));
    hand.value = a->low;
    assert_int_equal(rgp_door_ask(door, &hand), RGP_OK);
    rgp_door_advance(door, 8000000);
    rgp_door_end(door, NULL);
    return o;
}

/* Of every example: while one actuator is moved by hand alone, all others stay at rest. Where something else drives, as
 * it does in most of them without that, it is seen. */
static void test_hand_alone(void **unused)
{
    (void)unused;
    const char *name;
    uint32_t rigs = 0, jogs = 0, moved = 0, driven = 0;
    g_autoptr(GDir) folder = g_dir_open(RIGPULSE_SOURCE "/examples", 0, NULL);
    while ((name = g_dir_read_name(folder))) {
        g_autofree char *text = NULL, *path = g_build_filename(RIGPULSE_SOURCE "/examples", name, NULL);
        if (!g_str_has_suffix(name, ".rig") || !g_file_get_contents(path, &text, NULL, NULL)) {
            continue;
        }
        rgp_rig *rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog());
        const uint32_t actuators = rgp_image_count(rig->image, RGP_SECTION_ACTUATORS);
        for (uint32_t i = 0; i < actuators; i++, jogs++) {
            const others alone = jog_of(rig, i, true);
            if (alone.away > 0) {
                fail_msg("%s: while actuator %u is jogged others are driven in %u of %u ticks", name, i, alone.away,
                         alone.ticks);
            }
            moved += alone.moved > 0; /* a guard may keep it from it */
        }
        rigs++;
        driven += actuators > 1 && jog_of(rig, 0, false).away > 0;
        rgp_rig_free(rig);
    }
    assert_true(rigs > 10 && jogs > 20 && moved + 3 > jogs && driven >= 5);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_hand_alone),
        cmocka_unit_test(test_stepped),
        cmocka_unit_test(test_storm),
        cmocka_unit_test(test_recording_behind_the_door),
        cmocka_unit_test(test_recording_is_history),
        cmocka_unit_test(test_asking),
        cmocka_unit_test(test_holding),
        cmocka_unit_test(test_recording_in_the_middle),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
