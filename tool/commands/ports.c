/* rigpulse ports: which ports there are, which serial devices this machine has, and what one of them prints. */
#include "tool/command.h"

#include "runtime/interrupt.h"
#include "runtime/listen.h"
#include "runtime/ports.h"

#include <libserialport.h>
#include <math.h>
#include <stdio.h>

#define LISTEN_S  5.0
#define LONGEST_S 3600.0
#define SPEED     115200u

typedef struct ports_options {
    char *listen, *speed, *length;
    gboolean json;
} ports_options;

/* ---- what there is --------------------------------------------------------------------------------- */

static json_t *text_or_null(const char *text)
{
    g_autofree char *shown = text ? rgp_make_printable(g_utf8_make_valid(text, -1), false) : NULL;
    return shown ? json_string(shown) : json_null();
}

/* The system's list, with what the devices say of themselves. */
static json_t *list_devices(void)
{
    json_t *all = json_array();
    struct sp_port **list = NULL;
    if (sp_list_ports(&list) != SP_OK) {
        return all;
    }
    for (struct sp_port **port = list; *port; port++) {
        json_array_append_new(all, json_pack("{s:o, s:o, s:o}", "path", text_or_null(sp_get_port_name(*port)), "is",
                                             text_or_null(sp_get_port_description(*port)), "maker",
                                             text_or_null(sp_get_port_usb_manufacturer(*port))));
    }
    sp_free_port_list(list);
    return all;
}

static json_t *list_ports(void)
{
    json_t *all = json_array();
    for (const rgp_catalog *c = rgp_ports_catalog(); c; c = c->next) {
        json_array_append_new(all, json_pack("{s:s, s:s}", "port", c->port, "help", c->help));
    }
    return all;
}

static void print_list(const json_t *ports, const json_t *devices)
{
    size_t i;
    const json_t *is;
    puts("ports that a rig can be hooked up to:");
    json_array_foreach(ports, i, is)
    {
        printf("  hookup %-8s %s\n", json_string_value(json_object_get(is, "port")),
               json_string_value(json_object_get(is, "help")));
    }
    puts(json_array_size(devices) ? "\nserial devices of this machine:" : "\nthis machine has no serial devices");
    json_array_foreach(devices, i, is)
    {
        const char *what = json_string_value(json_object_get(is, "is")),
                   *maker = json_string_value(json_object_get(is, "maker"));
        printf("  %-14s %s%s%s\n", json_string_value(json_object_get(is, "path")), what ? what : "",
               maker ? ", of " : "", maker ? maker : "");
    }
    puts("\nWhat one of them prints: rigpulse ports --listen PATH\n"
         "A stand-in, for a first look: rigpulse demo serial");
}

static int show_list(bool json)
{
    json_t *ports = list_ports(), *devices = list_devices();
    if (json) {
        command_print_json(json_pack("{s:o, s:o}", "ports", ports, "devices", devices));
    } else {
        print_list(ports, devices);
        json_decref(ports);
        json_decref(devices);
    }
    return EXIT_DONE;
}

/* ---- what one prints ------------------------------------------------------------------------------- */

static void print_words(const rgp_heard_column *c)
{
    for (unsigned i = 0; i < MIN(c->words, HEARD_WORDS); i++) {
        printf("%s\"%s\"", i ? ", " : "  ", c->word[i]);
    }
    printf("%s", c->words > HEARD_WORDS ? ", ..." : "");
}

static void print_noise(const rgp_heard_column *c)
{
    if (c->numbers > 2) {
        printf(" %9.3g", rgp_heard_noise(c));
    } else {
        printf(" %9s", "?");
    }
}

static void print_columns(const rgp_heard *h)
{
    printf("  %-16s %11s %11s %11s %9s\n", h->json ? "field" : "column", "least", "greatest", "mean", "noise");
    for (guint i = 0; i < h->column->len; i++) {
        const rgp_heard_column *c = &g_array_index(h->column, rgp_heard_column, i);
        g_autofree char *name = c->name ? g_strdup_printf("\"%s\"", c->name) : g_strdup_printf("%u", i + 1);
        printf("  %-16s", name);
        if (c->numbers > 0) {
            printf(" %11.6g %11.6g %11.6g", c->least, c->greatest, c->sum / (double)c->numbers);
            print_noise(c);
        }
        print_words(c);
        if (c->empty) {
            printf("  (%" G_GUINT64_FORMAT " empty)", c->empty);
        }
        putchar('\n');
    }
}

static json_t *column_json(const rgp_heard_column *c)
{
    json_t *is = json_pack("{s:o, s:I, s:I}", "name", text_or_null(c->name), "numbers", (json_int_t)c->numbers, "empty",
                           (json_int_t)c->empty);
    json_t *words = json_array();
    for (unsigned i = 0; i < MIN(c->words, HEARD_WORDS); i++) {
        json_array_append_new(words, json_string(c->word[i]));
    }
    if (c->numbers > 0) {
        json_object_set_new(is, "least", json_real(c->least));
        json_object_set_new(is, "greatest", json_real(c->greatest));
        json_object_set_new(is, "mean", json_real(c->sum / (double)c->numbers));
    }
    if (c->numbers > 2) {
        json_object_set_new(is, "noise", json_real(rgp_heard_noise(c)));
    }
    json_object_set_new(is, "words", words);
    return is;
}

static void print_heard_json(const rgp_heard *h, const char *lines)
{
    json_t *columns = json_array();
    for (guint i = 0; i < h->column->len; i++) {
        json_array_append_new(columns, column_json(&g_array_index(h->column, rgp_heard_column, i)));
    }
    command_print_json(json_pack("{s:s, s:i, s:f, s:I, s:I, s:s, s:o, s:s}", "path", h->path, "speed", (int)h->speed,
                                 "seconds", h->seconds, "lines", (json_int_t)h->lines, "unread", (json_int_t)h->unread,
                                 "form", h->json ? "json" : "csv", "columns", columns, "hookup", lines));
}

static void print_heard(const rgp_heard *h, const char *lines)
{
    printf("%s at speed %u for %.3g s: %" G_GUINT64_FORMAT " lines, %.3g a second%s\n", h->path, h->speed, h->seconds,
           h->lines, (double)h->lines / h->seconds,
           h->lines == 0 ? ""
           : h->json     ? ", objects of JSON"
                         : ", rows of CSV");
    if (h->unread) {
        printf("%" G_GUINT64_FORMAT " of them cannot be read, the last %s\n", h->unread, h->unread_line);
    }
    if (h->lines == 0) {
        puts("It has printed nothing. Is it powered, does it wait for a start order, is the speed right (--speed)?");
    } else if (h->unread * 2 > h->lines) {
        puts("Most of it is no text: another speed may be right (--speed), or it speaks in bytes.");
    } else {
        print_columns(h);
        printf("\nLines for a rig file, to be given names of your own:\n\n%s", lines);
    }
}

/* The whole number behind --speed. */
static bool read_speed(const command *self, const char *text, unsigned *speed)
{
    guint64 number = SPEED;
    if (text && !g_ascii_string_to_unsigned(text, 10, 1, G_MAXINT, &number, NULL)) {
        command_refuse(self, "--speed %s: write the bits a second, for example --speed 9600", text);
        return false;
    }
    *speed = (unsigned)number;
    return true;
}

static int listen_to(const command *self, const ports_options *o)
{
    double seconds = LISTEN_S;
    const char *why;
    unsigned speed;
    if (o->length && !rgp_quantity_parse(o->length, "s", &seconds, &why)) {
        return command_refuse(self, "--for %s: %s; for example --for 10s", o->length, why);
    }
    if (!(seconds > 0.0 && seconds <= LONGEST_S)) {
        return command_refuse(self, "--for %s: it must be above 0 and at most %g s", o->length, LONGEST_S);
    }
    if (!read_speed(self, o->speed, &speed)) {
        return EXIT_USAGE;
    }
    g_autoptr(GError) error = NULL;
    interrupt_catch();
    rgp_heard *heard = rgp_serial_listen(o->listen, speed, seconds, interrupt_asked, &error);
    if (!heard) {
        return command_refuse(self, "%s", error->message);
    }
    g_autofree char *lines = rgp_heard_lines(heard);
    if (o->json) {
        print_heard_json(heard, lines);
    } else {
        print_heard(heard, lines);
    }
    rgp_heard_free(heard);
    return EXIT_DONE;
}

static int run_ports(const command *self, int argc, char **argv)
{
    ports_options o = {0};
    const GOptionEntry entries[] = {
        {"listen", 0, 0, G_OPTION_ARG_FILENAME, &o.listen, "look at what a device prints, and say how to connect it",
         "PATH"},
        {"speed", 0, 0, G_OPTION_ARG_FILENAME, &o.speed, "bits a second; 115200 if not said", "NUMBER"},
        {"for", 0, 0, G_OPTION_ARG_FILENAME, &o.length, "how long; 5 s if not said", "TIME"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 0, 0, &status)) {
        status = o.listen              ? listen_to(self, &o)
                 : o.speed || o.length ? command_refuse(self, "--speed and --for go with --listen PATH")
                                       : show_list(o.json);
    }
    g_free(o.listen);
    g_free(o.speed);
    g_free(o.length);
    return status;
}

const command command_ports = {"ports", "", "lists the ports and the serial devices, and what a device prints",
                               "rigpulse ports --listen /dev/ttyUSB0", run_ports};
