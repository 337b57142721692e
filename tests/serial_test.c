/* Devices that print lines: lines become cells, readings and heard columns; what is driven becomes lines; and the port
 * holds its contract with a stand-in at the other end of the wire, whatever that prints, and when it is pulled. */
#include "support.h"

#include "ports/serial/line.h"
#include "ports/serial/order.h"
#include "ports/serial/serial.h"
#include "ports/serial/standin.h"
#include "ports/serial/words.h"
#include "runtime/ports.h"

#include "rigpulse/port_trial.h"

#include <math.h>
#include <string.h>

/* ---- lines ------------------------------------------------------------------------------------------- */

static void test_cells(void **unused)
{
    (void)unused;
    static const struct {
        const char *line;
        unsigned column;
        const char *name, *cell;
    } cases[] = {
        {"1,2.5,open", 2, NULL, "2.5"},
        {"1;2,5;3", 2, NULL, "2,5"},
        {"1\t2 b\t3", 2, NULL, "2 b"},
        {"  12   34 ", 2, NULL, "34"},
        {"\"a,b\",7", 1, NULL, "a,b"},
        {"\"he said \"\"no\"\"\",7", 1, NULL, "he said \"no\""},
        {"1,,3", 2, NULL, ""},
        {"1,2", 3, NULL, NULL},
        {"{\"tank\":{\"level\":3,\"on\":true},\"a.b\":1.5}", 0, "tank.level", "3"},
        {"{\"tank\":{\"level\":3,\"on\":true},\"a.b\":1.5}", 0, "tank.on", "true"},
        {"{\"tank\":{\"level\":3,\"on\":true},\"a.b\":1.5}", 0, "a.b", "1.5"},
        {"{\"tank\":null,\"name\":\"x\"}", 0, "tank", ""},
        {"{\"tank\":null}", 0, "level", NULL},
        {"{\"tank\":7}", 0, "tank.level", NULL},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const char *why = NULL;
        line_cells c;
        line_begin(&c, *cases[i].line == '{');
        assert_true(line_split(&c, cases[i].line, &why));
        const char *cell = line_cell(&c, cases[i].column, cases[i].name, &why);
        if (g_strcmp0(cell, cases[i].cell) != 0) {
            fail_msg("%s: %s instead of %s", cases[i].line, cell ? cell : "nothing", cases[i].cell);
        }
        assert_true(cell || why);
        line_end(&c);
    }
}

static void count_line(void *self, const char *line)
{
    g_string_append_printf(self, "[%s]", !line ? "too long" : strlen(line) > 20 ? "long" : line);
}

/* In any pieces, with any ends. */
static void test_bytes_become_lines(void **unused)
{
    (void)unused;
    g_autofree char *full = g_strnfill(LINE_MOST, 'x'), *over = g_strnfill(3 * LINE_MOST, 'y');
    g_autofree char *bytes = g_strdup_printf("half\none\r\ntwo\rthree\n\n%s\n%s\nfour\nrest", full, over);
    for (gsize piece = 1; piece < 3000; piece = piece * 3 + 1) {
        g_autoptr(GString) lines = g_string_new(NULL);
        line_buffer b = {.skips = true};
        for (gsize at = 0; at < strlen(bytes); at += piece) {
            line_take_bytes(&b, bytes + at, MIN(piece, strlen(bytes) - at), count_line, lines);
        }
        assert_string_equal(lines->str, "[one][two][three][long][too long][four]");
    }
}

static void split_line(void *self, const char *line)
{
    static const char *const name[] = {NULL, "a", "a.b", "", "."};
    line_cells *c = self;
    const char *why = NULL;
    if (line && line_split(c, line, &why)) {
        for (size_t i = 0; i < G_N_ELEMENTS(name); i++) {
            double number;
            const char *cell = line_cell(c, 1 + (unsigned)strlen(line) % 5, name[i], &why);
            assert_true(cell || why);
            assert_true(!cell || !line_number(cell, &number) || isfinite(number));
        }
        if (!c->json && line_is_heading(c)) {
            line_name_columns(c);
        }
    }
}

/* Whatever comes, nothing breaks. */
static void test_any_bytes(void **unused)
{
    (void)unused;
    static const char likely[] = "0123456789.,;\t \"{}:[]-+eE#ab\n\r\\n";
    uint32_t chance = 5;
    for (int json = 0; json < 2; json++) {
        line_cells c;
        line_buffer b = {.skips = false};
        line_begin(&c, json);
        for (int n = 0; n < 200000; n++) {
            chance = chance * 1664525u + 1013904223u;
            const char byte = chance >> 28 ? likely[(chance >> 8) % (sizeof likely - 1)] : (char)(chance >> 16);
            line_take_bytes(&b, &byte, 1, split_line, &c);
        }
        line_end(&c);
    }
}

static void test_orders(void **unused)
{
    (void)unused;
    static const struct {
        const char *sent, *on, *off;
        double decimals;
        float value;
        const char *line;
    } cases[] = {
        {"pump {}", NULL, NULL, SENDS_AS_NEEDED, 37.5f, "pump 37.5\r\n"},
        {"{}", NULL, NULL, 2.0, -1.0f / 3.0f, "-0.33\r\n"},
        {"P{}%", NULL, NULL, 0.0, -0.0f, "P0%\r\n"},
        {"%s{}%n", NULL, NULL, SENDS_AS_NEEDED, 1.0f, "%s1%n\r\n"},
        {"lamp {}!", "lit", "dark", SENDS_AS_NEEDED, 1.0f, "lamp lit!\r\n"},
        {"lamp {}!", NULL, NULL, SENDS_AS_NEEDED, 0.0f, "lamp 0!\r\n"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        rgp_actuator_item item = {.kind = &serial_sends, .sent = cases[i].sent};
        char line[ORDER_MOST];
        const bool is_switch = g_str_has_prefix(cases[i].sent, "lamp");
        item.value[SENDS_DECIMALS] = cases[i].decimals;
        item.text[SENDS_ON] = cases[i].on;
        item.text[SENDS_OFF] = cases[i].off;
        assert_int_equal(order_compose(&item, is_switch, "\r\n", cases[i].value, line), strlen(cases[i].line));
        assert_string_equal(line, cases[i].line);
        line[strlen(line) - 2] = '\0';
        assert_near((double)order_read(&item, is_switch, line), (double)cases[i].value, 0.01);
        assert_true(isnan(order_read(&item, is_switch, "other")));
    }
}

/* ---- the port and its device ------------------------------------------------------------------------- */

#define RIG                                                                                                       \
    "rig quay\ntick 10 ms\nsensor level counts 0..4095, every 1 s\nsensor warm counts -400..400, every 1 s\n"     \
    "sensor door switch, every 1 s\nactuator pump percent 0..100, rest at 5\nactuator lamp switch, rest at off\n" \
    "on door goes on\n    lamp on\nsignal w = warm | line 0.1 K/counts, 0 °C\nwhile level above 9 counts\n"      \
    "    pump 80 % for 100 s\non w goes above 39 °C\n    mark \"hot\"\nhookup serial\n"

#define BOARD                                                                                                 \
    "    device board: path \"board.tty\", start \"hello\", end \"bye\"\n    level takes column 1 of board\n" \
    "    warm takes column 2 of board: times 10, plus 1\n    door takes column 3 of board: on \"open\", off " \
    "\"shut\"\n"                                                                                              \
    "    pump sends \"pump {}\" to board\n    lamp sends \"lamp {}\" to board\n"

typedef struct wire {
    char *folder;
    rgp_rig *rig;
    rgp_standin *device;
    rgp_serial *serial;
    const rgp_port *port;
    rgp_engine engine;
    void *memory;
    float told[2];
} wire;

static void begin_device(wire *w)
{
    g_autoptr(GError) error = NULL;
    w->device = rgp_standin_new(w->rig, w->rig->hookup, 0, &error);
    assert_null(error);
}

static void begin_rig(wire *w, const char *text)
{
    *w = (wire){.folder = make_folder()};
    g_autofree char *path = g_build_filename(w->folder, "quay.rig", NULL);
    w->rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog());
    if (w->rig->errors || w->rig->warnings) {
        fail_msg("%s", rgp_rig_report(w->rig));
    }
    begin_device(w);
}

/* The half line that is left aside, and a first one that says nothing: the port need not wait for it. */
static gpointer greet(gpointer device)
{
    g_usleep(50000);
    rgp_standin_write(device, "lf\nhello there\n");
    return NULL;
}

static void open_port(wire *w)
{
    GThread *greets = g_thread_new("greets", greet, w->device);
    g_autoptr(GError) error = NULL;
    const rgp_image_header *image = w->rig->image;
    w->serial = rgp_serial_new(w->rig, false, &error);
    assert_null(error);
    g_thread_join(greets);
    w->port = rgp_serial_port(w->serial);
    w->memory = g_malloc0(image->memory);
    assert_int_equal(rgp_engine_open(&w->engine, image, w->rig->image_size, w->memory, image->memory), RGP_OK);
}

static void end(wire *w)
{
    rgp_serial_free(w->serial);
    rgp_standin_free(w->device);
    rgp_rig_free(w->rig);
    g_free(w->memory);
    remove_folder(w->folder);
}

/* The other thread has a moment; then one tick. */
static void tick(wire *w)
{
    g_usleep(20000);
    assert_int_equal(rgp_engine_tick(&w->engine, w->port), RGP_OK);
    if (w->device) {
        rgp_standin_listen(w->device, w->told);
    }
}

static rgp_reading reading(const wire *w, uint32_t sensor)
{
    return rgp_engine_value(&w->engine, rgp_image_sensor_slot(w->rig->image, sensor));
}

/* NAN: missing. */
static bool reads(const wire *w, const double *wanted)
{
    bool all = true;
    for (uint32_t k = 0; k < 3; k++) {
        const rgp_reading is = reading(w, k);
        all &= isnan(wanted[k]) ? is.quality == RGP_MISSING : (double)is.value == wanted[k] && is.quality == RGP_GOOD;
    }
    return all;
}

static void test_readings(void **unused)
{
    (void)unused;
    static const struct {
        const char *lines;
        double level, warm, door; /* NAN: missing */
        bool fresh;
    } cases[] = {
        {"100,-2.5,open\n", 100, -24, 1, true},
        {"", 100, -24, 1, false},
        {"101,3,shut\n102,4,shut\n103,5.04,shut\n", 103, 51, 0, true},
        {"# a word,of,the board\n\r\n", 103, 51, 0, false},
        {"nan,,open\n", NAN, NAN, 1, true},
        {"104,12,ajar\n", 104, 121, NAN, true},
        {"1e99,12,shut\n", NAN, 121, 0, true},
        {"0x10,1 2,shut,5\n", NAN, NAN, 0, true},
        {"105\n", 105, NAN, 0, true},
        {"level,warm,door\n", 105, NAN, 0, false},
        {"\377\376\001\n", 105, NAN, 0, false},
        {"106;7;open\n", 106, 71, 1, true},
        {"107 8 open", 106, 71, 1, false},
        {"\n", 107, 81, 1, true},
    };
    wire w;
    begin_rig(&w, RIG BOARD);
    open_port(&w);
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const double wanted[] = {cases[i].level, cases[i].warm, cases[i].door};
        bool fresh = false, right = false;
        rgp_standin_write(w.device, cases[i].lines);
        for (int waits = 0; waits < 100 && !(right && (fresh || !cases[i].fresh)); waits++) { /* for the other thread */
            tick(&w);
            right = reads(&w, wanted);
            fresh |= rgp_engine_is_new(&w.engine, 0);
        }
        if (!right || (!isnan(wanted[0]) && fresh != cases[i].fresh)) {
            fail_msg("case %zu: %g %g %g, %s", i, (double)reading(&w, 0).value, (double)reading(&w, 1).value,
                     (double)reading(&w, 2).value, fresh ? "new" : "not new");
        }
    }
    g_autofree char *account = rgp_serial_account(w.serial);
    assert_says(account, "board: 14 lines, 4 could not be read, last '");
    assert_says(account, "6 readings came with a newer one in the same tick");
    end(&w);
}

/* A value that is driven arrives, once; a wire that is pulled makes readings missing and actuators nobody's; one that
 * comes back is opened, told its start order and rest, and goes on. */
static void test_a_pulled_wire(void **unused)
{
    (void)unused;
    wire w;
    begin_rig(&w, RIG BOARD);
    open_port(&w);
    rgp_standin_write(w.device, "100,1,shut\n");
    tick(&w);
    rgp_standin_write(w.device, "101,1,open\n");
    for (int waits = 0; waits < 100 && !(w.told[0] == 80.0f && w.told[1] == 1.0f); waits++) {
        tick(&w);
    }
    assert_true(w.told[0] == 80.0f && w.told[1] == 1.0f);

    rgp_standin_free(w.device);
    w.device = NULL;
    for (int waits = 0; waits < 100 && reading(&w, 0).quality != RGP_MISSING; waits++) {
        tick(&w);
    }
    assert_int_equal(reading(&w, 0).quality, RGP_MISSING);
    for (int i = 0; i < 100 && !(rgp_engine_is_lost(&w.engine, 0) && rgp_engine_is_lost(&w.engine, 1)); i++) {
        tick(&w);
    }
    assert_true(rgp_engine_is_lost(&w.engine, 0) && rgp_engine_is_lost(&w.engine, 1));
    g_autofree char *trouble = rgp_serial_trouble(w.serial);
    assert_says(trouble, "board");

    begin_device(&w);
    for (int i = 0; i < 150 && (rgp_engine_is_lost(&w.engine, 0) || rgp_engine_is_lost(&w.engine, 1)); i++) {
        rgp_standin_write(w.device, "7,1,shut\n");
        tick(&w);
    }
    assert_false(rgp_engine_is_lost(&w.engine, 0) || rgp_engine_is_lost(&w.engine, 1));
    for (int waits = 0; waits < 100 && !(w.told[0] == 5.0f && w.told[1] == 0.0f); waits++) {
        tick(&w);
    }
    assert_true(w.told[0] == 5.0f && w.told[1] == 0.0f && reading(&w, 0).quality == RGP_GOOD);
    assert_null(rgp_serial_trouble(w.serial));
    end(&w);
}

/* The last words of each kind of end. */
static void test_rest_and_the_end(void **unused)
{
    (void)unused;
    for (int dies = 0; dies < 2; dies++) {
        wire w;
        begin_rig(&w, RIG BOARD);
        open_port(&w);
        rgp_standin_write(w.device, "100,1,shut\n");
        for (int waits = 0; waits < 100 && w.told[0] != 80.0f; waits++) {
            tick(&w);
        }
        assert_true(w.told[0] == 80.0f);
        if (dies) {
            w.port->rest_now(w.port->self);
        } else {
            rgp_engine_rest(&w.engine, w.port);
            rgp_serial_free(w.serial);
            w.serial = NULL;
        }
        rgp_standin_listen(w.device, w.told);
        assert_true(w.told[0] == 5.0f && w.told[1] == 0.0f);
        end(&w);
    }
}

/* A device that takes nothing any more delays no tick, and its actuators are lost. */
static void test_a_full_wire(void **unused)
{
    (void)unused;
    wire w;
    begin_rig(&w, RIG BOARD);
    open_port(&w);
    uint64_t longest_us = 0;
    for (int i = 0; i < 60000 && !rgp_engine_is_lost(&w.engine, 0); i++) {
        const gint64 begun = g_get_monotonic_time();
        rgp_engine_hand(&w.engine, 0, (float)(i % 100));
        rgp_engine_tick(&w.engine, w.port);
        longest_us = MAX(longest_us, (uint64_t)(g_get_monotonic_time() - begun));
        g_usleep(i > 5000 ? 1000 : 10);
    }
    assert_true(rgp_engine_is_lost(&w.engine, 0));
    assert_true(longest_us < 500000);
    end(&w);
}

/* A machine that is busy with other things may be slow; that is measured in perf/. */
static void note_fault(void *self, rgp_port_fault fault, uint16_t channel)
{
    if (fault == RGP_PORT_SLOW) {
        return;
    }
    g_string_append_printf(self, "%s (%u); ", rgp_port_fault_text(fault), channel);
}

static gpointer print_on(gpointer self)
{
    const wire *w = self;
    for (int i = 0; i < 80; i++) {
        g_autofree char *line = g_strdup_printf("%d,1,%s\n", i, i % 3 ? "open" : "shut");
        rgp_standin_write(w->device, line);
        g_usleep(13000);
    }
    return NULL;
}

static void test_the_contract(void **unused)
{
    (void)unused;
    wire w;
    begin_rig(&w, RIG BOARD);
    open_port(&w);
    GThread *prints = g_thread_new("prints", print_on, &w);
    rgp_port_trace trace[4] = {0};
    g_autoptr(GString) faults = g_string_new(NULL);
    rgp_port_result result;
    const rgp_port_trial trial = {w.port, w.rig->image, 100, 0.5f, trace, note_fault, faults};
    rgp_port_try(&trial, &result);
    g_thread_join(prints);
    assert_string_equal(faults->str, "");
    assert_true(result.fresh > 100 && result.standing > 30);
    end(&w);
}

/* JSON Lines, a heading, columns by name. */
static void test_names(void **unused)
{
    (void)unused;
    static const struct {
        const char *device, *lines;
    } cases[] = {
        {"device board: path \"board.tty\"", "warm,level,door\n2,100,on\n"},
        {"device board: path \"board.tty\", json", "{\"door\":true,\"level\":100,\"warm\":2.0,\"else\":[1]}\n"},
        {"device board: path \"board.tty\", json", "{\"level\":100}\n{\"warm\":2}\n{\"door\":\"ON\"}\n"},
        {"device board: path \"board.tty\", comment \"//\", crlf", "// no\nlevel\tdoor\twarm\n100\thigh\t2.00\n"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        wire w;
        g_autofree char *text = g_strconcat(RIG "    ", cases[i].device,
                                            "\n    level takes \"level\" of board\n    warm takes \"warm\" of board\n"
                                            "    door takes \"door\" of board\n    pump sends \"p{}\" to board\n"
                                            "    lamp sends \"l{}\" to board\n",
                                            NULL);
        begin_rig(&w, text);
        open_port(&w);
        rgp_standin_write(w.device, cases[i].lines);
        for (int waits = 0; waits < 100 && !reads(&w, (const double[]){100.0, 2.0, 1.0}); waits++) {
            tick(&w);
        }
        assert_true(reads(&w, (const double[]){100.0, 2.0, 1.0}));
        end(&w);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_cells),
        cmocka_unit_test(test_bytes_become_lines),
        cmocka_unit_test(test_orders),
        cmocka_unit_test(test_any_bytes),
        cmocka_unit_test(test_readings),
        cmocka_unit_test(test_a_pulled_wire),
        cmocka_unit_test(test_rest_and_the_end),
        cmocka_unit_test(test_a_full_wire),
        cmocka_unit_test(test_the_contract),
        cmocka_unit_test(test_names),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
