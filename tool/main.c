/* The list of commands, and the way to the one that was called. */
#include "command.h"

#include "analysis/numerics.h"
#include "rigpulse/lang.h"
#include "rigpulse/version.h"

#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static const command *const commands[] = {
    &command_demo,    &command_check,  &command_inspect,   &command_calibrate, &command_jog,   &command_tune,
    &command_watch,   &command_run,    &command_plot,      &command_list,      &command_mark,  &command_compare,
    &command_convert, &command_why,    &command_threshold, &command_survey,    &command_model, &command_suggest,
    &command_match,   &command_advise, &command_replay,    &command_ports,     &command_words, &command_divider,
};

static void print_help(FILE *to)
{
    fputs("Rig Pulse: calibrate, watch, trigger and tune sensor-reactive devices.\n\n"
          "Usage: rigpulse COMMAND ...\n\n",
          to);
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        fprintf(to, "  %-9s %s\n", commands[i]->name, commands[i]->summary);
    }
    fputs("\n'rigpulse COMMAND --help' says more, with an example. To begin: rigpulse demo\n", to);
}

static int refuse_command(const char *typed)
{
    const char *name[G_N_ELEMENTS(commands)];
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        name[i] = commands[i]->name;
    }
    const char *near = rgp_nearest_word(typed, name, G_N_ELEMENTS(commands));
    fprintf(stderr, "rigpulse: there is no command '%s'", typed);
    fprintf(stderr, near ? "; did you mean '%s'?\n" : "; 'rigpulse --help' lists them\n", near);
    return EXIT_USAGE;
}

/* A stream that was closed must not become the first file that is opened: it is made one that cannot be used. */
static void keep_streams_apart(void)
{
    for (int stream = STDIN_FILENO; stream <= STDERR_FILENO; stream++) {
        if (fcntl(stream, F_GETFD) < 0) {
            const int made = open("/dev/null", stream == STDIN_FILENO ? O_WRONLY : O_RDONLY);
            if (made != stream) {
                _exit(EXIT_FAULT);
            }
        }
    }
}

/* GLib ends the process when it cannot have memory or a thread. Its own way of saying so needs memory, and may wait for
 * ever; this one needs none. Dying is seen to in interrupt.c. */
static void say_and_die(const char *domain, GLogLevelFlags level, const char *message, void *unused)
{
    static const char begin[] = "rigpulse: ", end[] = "\n";
    (void)unused;
    if (!(level & G_LOG_FLAG_FATAL)) {
        g_log_default_handler(domain, level, message, NULL);
        return;
    }
    ssize_t ignored = write(STDERR_FILENO, begin, strlen(begin));
    ignored += write(STDERR_FILENO, message, strlen(message));
    ignored += write(STDERR_FILENO, end, strlen(end));
    (void)ignored;
    abort();
}

static bool output_done;

static bool has_no_reader(void)
{
    struct pollfd at = {STDOUT_FILENO, 0, 0};
    return poll(&at, 1, 0) > 0 && (at.revents & POLLERR);
}

/* Printed text has to arrive. A reader that has seen enough needs no message. */
static bool finish_output(void)
{
    output_done = true;
    errno = 0;
    const bool lost = ferror(stdout) != 0;
    if (fflush(stdout) == 0 && !lost) {
        return true;
    }
    if (!has_no_reader()) {
        fprintf(stderr, "rigpulse: standard output cannot be written%s%s; what was to be shown is lost\n",
                errno ? ": " : "", errno ? strerror(errno) : "");
    }
    return false;
}

/* --help leaves from within the reading of options. */
static void finish_at_exit(void)
{
    if (!output_done && !finish_output()) {
        _exit(EXIT_FAULT);
    }
}

static int run(int argc, char **argv)
{
    if (argc < 2) {
        print_help(stderr);
        return EXIT_USAGE;
    }
    if (strcmp(argv[1], "--help") == 0 || strcmp(argv[1], "-h") == 0 || strcmp(argv[1], "help") == 0) {
        print_help(stdout);
        return EXIT_DONE;
    }
    if (strcmp(argv[1], "--version") == 0) {
        printf("rigpulse %s\n", rgp_version_text());
        return EXIT_DONE;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        if (strcmp(argv[1], commands[i]->name) == 0) {
            return commands[i]->run(commands[i], argc - 1, argv + 1);
        }
    }
    return refuse_command(argv[1]);
}

int main(int argc, char **argv)
{
    rgp_numerics_go_on();
    keep_streams_apart();
    signal(SIGPIPE, SIG_IGN); /* the calls that write say what is wrong */
    signal(SIGXFSZ, SIG_IGN);
    json_set_alloc_funcs(g_malloc, g_free); /* ends the process as GLib does, when there is no memory */
    g_log_set_default_handler(say_and_die, NULL);
    atexit(finish_at_exit);
    const int status = run(argc, argv);
    return finish_output() || status != EXIT_DONE ? status : EXIT_FAULT;
}
