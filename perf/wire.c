/* Measures how late ticks are on a device that prints 16 columns a hundred times a second, beside the same ticks on the
 * simulated port; and, to be counted from outside, the system calls of its ticks.
 *
 * perf_wire late TICKS        of a device that prints, one that says nothing, and one that takes nothing either:
 *                             microseconds from a tick's time to its beginning, of half and of 99 % of the ticks, each
 * on the wire and simulated perf_wire calls TICKS       ticks alone, in each of which an output changes */
#include "ports/serial/standin.h"
#include "runtime/ports.h"

#include "rigpulse/engine.h"
#include "ports/clock.h"

#include <glib/gstdio.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define COLUMNS  16
#define ROUND    200 /* ticks of one port, then of the other */
#define PRINT_US 10000
#define TICK_US  1000

typedef struct bench {
    rgp_rig *rig;
    rgp_opened opened;
    rgp_engine engine;
    void *memory;
    uint64_t tick; /* next, of the port's clock */
    GArray *late;  /* nanoseconds from a tick's time to its beginning */
} bench;

static atomic_bool leaving, silent, deaf;
static rgp_standin *board;

static gpointer print_lines(gpointer unused)
{
    double raw[COLUMNS];
    for (int n = 0; !atomic_load(&leaving); n++) {
        for (int i = 0; i < COLUMNS; i++) {
            raw[i] = (n * 7 + i * 13) % 4000;
        }
        if (!atomic_load(&silent)) {
            rgp_standin_print(board, raw);
        }
        if (!atomic_load(&deaf)) {
            rgp_standin_listen(board, (float[1]){0.0f});
        }
        g_usleep(PRINT_US);
    }
    return unused;
}

static char *rig_text(void)
{
    GString *text = g_string_new("rig wire\ntick 1 ms\nactuator pump percent 0..100, rest at 0\n"),
            *sim = g_string_new(NULL);
    for (int i = 0; i < COLUMNS; i++) {
        g_string_append_printf(text, "sensor s%d counts 0..4095, every 1 s\nsignal m%d = s%d | smooth 5 ms\n", i, i, i);
    }
    g_string_append(text,
                    "drive pump = m0 / 4000 counts * 100 %\nhookup serial\n    device board: path \"board.tty\"\n");
    for (int i = 0; i < COLUMNS; i++) {
        g_string_append_printf(text, "    s%d takes column %d of board\n", i, i + 1);
        g_string_append_printf(sim, "    s%d reads %d\n", i, 100 + i);
    }
    g_string_append_printf(text, "    pump sends \"pump {}\" to board\nhookup sim\n%s", sim->str);
    g_string_free(sim, TRUE);
    return g_string_free(text, FALSE);
}

static void stop_here(const char *what)
{
    fprintf(stderr, "perf_wire: %s\n", what);
    exit(2);
}

static void begin(bench *b, const char *path, const char *text, const char *port)
{
    g_autoptr(GError) error = NULL;
    rgp_ports_choose(port);
    b->rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog());
    if (b->rig->errors) {
        stop_here(rgp_rig_report(b->rig));
    }
    if (strcmp(port, "serial") == 0) {
        board = rgp_standin_new(b->rig, b->rig->hookup, 0, &error);
        if (!board) {
            stop_here(error->message);
        }
    }
    const rgp_opening how = {.seed = 1, .paced = true};
    if (!rgp_ports_open(&b->opened, b->rig, &how, &error)) {
        stop_here(error->message);
    }
    const rgp_image_header *image = b->rig->image;
    b->memory = g_malloc0(image->memory);
    rgp_engine_open(&b->engine, image, b->rig->image_size, b->memory, image->memory);
    b->late = g_array_new(FALSE, FALSE, sizeof(gint64));
}

/* Some ticks by the clock, from now on. */
static void go(bench *b, int ticks)
{
    const rgp_port *port = b->opened.port;
    rgp_ports_catch_up(&b->opened);
    b->tick = b->opened.sim ? b->tick : port->now(port->self) / TICK_US + 1;
    const uint64_t until_us =
        b->opened.sim ? 0 : b->tick * TICK_US - port->now(port->self); /* a simulated clock begins now */
    const uint64_t begun = clock_wall_ns() + until_us * 1000u;
    port->sleep_until(port->self, b->tick * TICK_US);
    for (int i = 0; i < ticks; i++, b->tick++) {
        port->sleep_until(port->self, b->tick * TICK_US);
        const gint64 late = (gint64)clock_wall_ns() - (gint64)(begun + (uint64_t)i * TICK_US * 1000u);
        rgp_engine_tick(&b->engine, port);
        g_array_append_val(b->late, late);
    }
}

static gint by_size(gconstpointer a, gconstpointer b)
{
    const gint64 x = *(const gint64 *)a, y = *(const gint64 *)b;
    return x < y ? -1 : x > y;
}

static double share(const bench *b, double part)
{
    g_array_sort(b->late, by_size);
    return (double)g_array_index(b->late, gint64, (guint)(part * (double)(b->late->len - 1))) / 1000.0;
}

static void compare(bench *serial, bench *sim, const char *what, int ticks)
{
    for (int n = 0; n < ticks; n += ROUND) {
        go(sim, ROUND);
        go(serial, ROUND);
    }
    printf("%s %.1f %.1f %.1f %.1f\n", what, share(serial, 0.5), share(sim, 0.5), share(serial, 0.99),
           share(sim, 0.99));
    g_array_set_size(serial->late, 0);
    g_array_set_size(sim->late, 0);
}

int main(int argc, char **argv)
{
    const int ticks = argc > 2 ? atoi(argv[2]) : 4000;
    g_autofree char *folder = g_dir_make_tmp("perf-wire-XXXXXX", NULL), *text = rig_text();
    g_autofree char *path = g_build_filename(folder, "wire.rig", NULL);
    bench serial = {0}, sim = {0};
    begin(&serial, path, text, "serial");
    begin(&sim, path, text, "sim");
    GThread *prints = g_thread_new("board", print_lines, NULL);
    g_usleep(100000);
    if (argc > 1 && strcmp(argv[1], "calls") == 0) {
        go(&serial, ticks);
    } else {
        compare(&serial, &sim, "printing", ticks);
        atomic_store(&silent, true);
        compare(&serial, &sim, "silent", ticks);
        atomic_store(&deaf, true);
        compare(&serial, &sim, "deaf", ticks);
    }
    atomic_store(&leaving, true);
    g_thread_join(prints);
    rgp_ports_close(&serial.opened);
    rgp_ports_close(&sim.opened);
    rgp_standin_free(board);
    g_rmdir(folder);
    return 0;
}
