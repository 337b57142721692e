/* Helpers for all tests: folders, files, rigs on the simulated port, and the tool as a child process. */
#include "support.h"

#include "runtime/ports.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>

/* Tests whose names end in _at_length compute for long, and do not run under the sanitizers. RIGPULSE_TESTS: a pattern
 * of the names of those that run. */
__attribute__((constructor)) static void choose_tests(void)
{
#ifdef RIGPULSE_SANITIZED
    cmocka_set_skip_filter("*_at_length");
#endif
    if (getenv("RIGPULSE_TESTS")) {
        cmocka_set_test_filter(getenv("RIGPULSE_TESTS"));
    }
}

static void keep_event(void *self, const rgp_event *event)
{
    bench *b = self;
    assert_true(b->events < EVENTS_KEPT);
    b->event[b->events++] = *event;
}

void bench_open(bench *b, const char *text)
{
    *b = (bench){0};
    b->rig = rgp_rig_compile("test.rig", text, strlen(text), rgp_ports_catalog());
    assert_non_null(b->rig);
    if (!b->rig->image) {
        fail_msg("%s", rgp_rig_report(b->rig));
    }
    const rgp_image_header *image = b->rig->image;
    b->memory = calloc(1, image->memory);
    assert_int_equal(rgp_engine_open(&b->engine, image, b->rig->image_size, b->memory, image->memory), RGP_OK);
    rgp_engine_listen(&b->engine, keep_event, b);
}

void bench_close(bench *b)
{
    free(b->memory);
    rgp_rig_free(b->rig);
}

static void tick(bench *b, uint64_t tick_us, const rgp_sample *sample)
{
    b->events = 0;
    for (uint16_t i = 0; i < rgp_image_count(b->engine.image, RGP_SECTION_SENSORS); i++) {
        assert_int_equal(rgp_engine_sense(&b->engine, i, sample), RGP_OK);
    }
    rgp_engine_step(&b->engine, b->now_us);
    b->now_us += tick_us ? tick_us : b->engine.image->tick_us;
}

void bench_tick(bench *b, uint64_t tick_us, int32_t raw)
{
    const rgp_sample sample = {.time_us = b->now_us, .raw = raw};
    tick(b, tick_us, &sample);
}

void bench_tick_bad(bench *b, rgp_quality quality)
{
    const rgp_sample sample = {.time_us = b->now_us, .quality = quality};
    tick(b, 0, &sample);
}

uint16_t bench_slot(const bench *b, const char *name)
{
    for (uint16_t slot = 0; slot < b->engine.image->slots; slot++) {
        if (strcmp(rgp_image_text(b->engine.image, RGP_NAME_SLOT, slot, 0), name) == 0) {
            return slot;
        }
    }
    fail_msg("there is no '%s'", name);
    return 0;
}

rgp_reading bench_value(const bench *b, const char *name)
{
    return rgp_engine_value(&b->engine, bench_slot(b, name));
}

uint32_t bench_events(const bench *b, uint8_t kind)
{
    uint32_t count = 0;
    for (uint32_t i = 0; i < b->events; i++) {
        count += b->event[i].kind == kind;
    }
    return count;
}

void assert_near(double got, double wanted, double tolerance)
{
    if (!(fabs(got - wanted) <= tolerance)) {
        fail_msg("%.9g is not within %g of %.9g", got, tolerance, wanted);
    }
}

called call_tool(const char *folder, const char *arguments)
{
    called c = {0};
    g_autofree char *line = g_strconcat(RIGPULSE_TOOL " ", arguments, NULL);
    g_auto(GStrv) argv = NULL;
    g_autoptr(GError) error = NULL;
    gint wait_status = 0;
    if (!g_shell_parse_argv(line, NULL, &argv, &error) ||
        !g_spawn_sync(folder, argv, NULL, G_SPAWN_DEFAULT, NULL, NULL, &c.out, &c.err, &wait_status, &error)) {
        fail_msg("%s: %s", line, error->message);
    }
    c.status = WIFEXITED(wait_status) ? WEXITSTATUS(wait_status) : -WTERMSIG(wait_status);
    return c;
}

void call_done(called *c)
{
    g_free(c->out);
    g_free(c->err);
}

void assert_says(const char *text, const char *wanted)
{
    if (!strstr(text, wanted)) {
        fail_msg("'%s' is not in: %s", wanted, text);
    }
}

double number_behind(const char *text, const char *what)
{
    const char *at = strstr(text, what);
    assert_non_null(at);
    return g_ascii_strtod(at + strlen(what), NULL);
}

void check_calls(const char *folder, const call_case *cases, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        called c = call_tool(folder, cases[i].arguments);
        if (c.status != cases[i].status || !strstr(c.status == 2 ? c.err : c.out, cases[i].says)) {
            fail_msg("'%s' ended with %d, and '%s' is to be in: %s%s", cases[i].arguments, c.status, cases[i].says,
                     c.out, c.err);
        }
        call_done(&c);
    }
}

char *make_folder(void)
{
    char *folder = g_dir_make_tmp("rigpulse-test-XXXXXX", NULL);
    assert_non_null(folder);
    return folder;
}

void remove_folder(char *folder)
{
    g_autofree char *command = g_strdup_printf("rm -rf '%s'", folder);
    assert_int_equal(system(command), 0);
    g_free(folder);
}

void put_file(const char *folder, const char *name, const char *text, gssize length)
{
    g_autofree char *path = g_build_filename(folder, name, NULL);
    assert_true(g_file_set_contents(path, text, length, NULL));
}

char *get_file(const char *folder, const char *name)
{
    g_autofree char *path = g_build_filename(folder, name, NULL);
    char *text = NULL;
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        fail_msg("there is no file %s", path);
    }
    return text;
}

static gint by_name(gconstpointer a, gconstpointer b)
{
    return strcmp(*(char *const *)a, *(char *const *)b);
}

char *replaced(const char *text, const char *piece, const char *by)
{
    const char *at = strstr(text, piece);
    if (!at) {
        fail_msg("'%s' is not in the text", piece);
    }
    return g_strdup_printf("%.*s%s%s", (int)(at - text), text, by, at + strlen(piece));
}

double gauss(GRand *chance)
{
    return sqrt(-2.0 * log(g_rand_double(chance) + 1e-300)) * cos(2.0 * G_PI * g_rand_double(chance));
}

GPtrArray *list_files(const char *folder, const char *ending)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    GDir *open = g_dir_open(folder, 0, NULL);
    assert_non_null(open);
    for (const char *name; (name = g_dir_read_name(open));) {
        if (g_str_has_suffix(name, ending)) {
            g_ptr_array_add(names, g_strdup(name));
        }
    }
    g_dir_close(open);
    g_ptr_array_sort(names, by_name);
    return names;
}
