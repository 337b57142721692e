#include "command.h"

#include "rigpulse/lang.h"

#include <signal.h>
#include <stdio.h>
#include <string.h>

static const command *const commands[] = {
    &command_demo,  &command_check, &command_inspect, &command_calibrate, &command_jog,     &command_tune,
    &command_watch, &command_run,   &command_plot,    &command_list,      &command_divider,
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
    const char *near = rp_nearest_word(typed, name, G_N_ELEMENTS(commands));
    fprintf(stderr, "rigpulse: there is no command '%s'", typed);
    fprintf(stderr, near ? "; did you mean '%s'?\n" : "; 'rigpulse --help' lists them\n", near);
    return EXIT_USAGE;
}

int main(int argc, char **argv)
{
    signal(SIGPIPE, SIG_IGN);
    if (argc < 2) {
        print_help(stderr);
        return EXIT_USAGE;
    }
    if (strcmp(argv[1], "--help") == 0 || strcmp(argv[1], "-h") == 0 || strcmp(argv[1], "help") == 0) {
        print_help(stdout);
        return EXIT_DONE;
    }
    if (strcmp(argv[1], "--version") == 0) {
        puts("rigpulse " RIGPULSE_VERSION);
        return EXIT_DONE;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        if (strcmp(argv[1], commands[i]->name) == 0) {
            return commands[i]->run(commands[i], argc - 1, argv + 1);
        }
    }
    return refuse_command(argv[1]);
}
