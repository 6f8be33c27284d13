// hsk: Hue Stack without a window.
#include "cli/commands.h"

#include <CLI/CLI.hpp>
#include <iostream>

int main(int argc, char** argv) {
    using namespace hue::cli;
    CLI::App app{"hsk works on Hue Stack projects without a display."};
    app.require_subcommand(1);
    Options o;
    int code = 0;
    auto command = [&](const char* name, const char* help, int (*run)(const Options&), bool project = true) {
        CLI::App* sub = app.add_subcommand(name, help);
        if (project) sub->add_option("PROJECT", o.project, "The .huestack file")->required();
        sub->callback([&code, &o, run] { code = run(o); });
        return sub;
    };
    auto of = [&](CLI::App* sub) { sub->add_option("--of", o.of, "A master, or Master/Instance")->required(); };
    auto out = [&](CLI::App* sub, const char* help) { sub->add_option("--out", o.out, help)->required(); };
    auto size = [&](CLI::App* sub) { sub->add_option("--size", o.size, "Pixels a side")->check(CLI::Range(4, 8192)); };
    auto time = [&](CLI::App* sub) { sub->add_option("--time", o.time, "Seconds"); };
    auto json = [&](CLI::App* sub) { sub->add_flag("--json", o.json, "Print JSON"); };

    json(command("check", "List problems, one a line: severity code place: sentence", check));
    json(command("nodes", "Print the catalogue of nodes", nodes, false));
    json(command("list", "List masters, parameters, instances, maps and meshes", list));
    CLI::App* c = command("cost", "Operations per rate, fetches, samplers, map bytes", cost);
    of(c), json(c);
    c = command("shader", "Print the shader source", shader);
    of(c);
    c->add_option("--stage", o.stage, "vertex or fragment")->check(CLI::IsMember({"vertex", "fragment"}));
    c = command("evaluate", "Evaluate one channel over the UV square", evaluate);
    of(c), size(c), time(c), out(c, "FILE.exr or FILE.png");
    c->add_option("--channel", o.channel, "Such as base-color")->required();
    c->add_option("--engine", o.engine, "cpu or gl")->check(CLI::IsMember({"cpu", "gl"}));
    c = command("render", "Render a picture", render);
    of(c), time(c), out(c, "FILE.png");
    c->add_option("--mesh", o.mesh, "A mesh of the project, or sphere, plane, cube, cylinder, torus");
    c->add_option("--view", o.view, "lit, unlit, a channel, or invalid");
    c->add_option("--light", o.light, "sodium-shed, overcast-yard or grey-box");
    c->add_option("--size", o.pictureSize, "WIDTHxHEIGHT");
    c = command("bake", "Bake the channels to PNG maps", bakeMaps);
    of(c), size(c), time(c), json(c), out(c, "The folder");
    c = command("dispatch", "Write a GLB with the baked maps", dispatchFile);
    of(c), size(c), time(c), json(c), out(c, "FILE.glb");
    c->add_option("--mesh", o.mesh, "A mesh of the project or a shape")->required();

    try {
        app.parse(argc, argv);
    } catch (const CLI::CallForHelp& e) { return app.exit(e); } catch (const CLI::CallForAllHelp& e) {
        return app.exit(e);
    } catch (const CLI::ParseError& e) {
        std::cerr << "hsk: " << e.what() << "\nRun hsk --help for the commands.\n";
        return 2;
    }
    return code;
}
